/** Messages to the streamer, at the foot of the page: what was done, or what is wrong and what to do. */
import { ElMessage } from 'element-plus'
import { Refused } from '@/api/client'

export function say(text: string, tone: 'fine' | 'wrong' | 'plain' = 'plain'): void {
  const type = tone === 'fine' ? 'success' : tone === 'wrong' ? 'error' : 'info'
  ElMessage({
    message: text,
    type,
    duration: tone === 'wrong' ? 8000 : 3500,
    showClose: true,
    grouping: true,
    placement: 'bottom',
    offset: 48,
  })
}

/** Says what went wrong. Returns whether the server answered. */
function sayWrong(error: unknown): boolean {
  if (error instanceof Refused) {
    say([error.message, error.todo].filter(Boolean).join(' '), 'wrong')
    return true
  }
  say(error instanceof Error ? error.message : String(error), 'wrong')
  return false
}

/** Runs something that may be refused, and says so if it is. */
export async function attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work()
  } catch (error) {
    sayWrong(error)
    return undefined
  }
}
