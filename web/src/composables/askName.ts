/** Asks for the name of something new. */
import { ElMessageBox } from 'element-plus'

/** Returns the name; empty if it was cancelled. `without` says why there has to be one. */
export async function askName(title: string, without: string): Promise<string> {
  const asked = await ElMessageBox.prompt('Name', title, {
    confirmButtonText: 'Add',
    cancelButtonText: 'Cancel',
    inputValidator: (value) => Boolean(value?.trim()) || without,
  }).catch(() => null)
  return asked?.value.trim() ?? ''
}
