declare module '*.md' {
  import type { GuidePage } from '@/guide/pages'
  const page: GuidePage
  export default page
}
