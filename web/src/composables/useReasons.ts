/** The server's own words for every reason. */
import { ref } from 'vue'
import { api, got } from '@/api/client'

const reasons = ref<Record<string, string>>({})
let asked = false

export function useReasons(): typeof reasons {
  if (!asked) {
    asked = true
    got(api.GET('/api/ledger', { params: { query: { limit: 1 } } })).then(
      (answer) => (reasons.value = answer.reasons),
      () => (asked = false),
    )
  }
  return reasons
}
