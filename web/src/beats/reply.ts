import type { BeatKind } from './kind'

export default {
  name: 'Reply in chat',
  offered: 'among more',
  fresh: () => ({ text: '{{viewer}}' }),
} satisfies BeatKind
