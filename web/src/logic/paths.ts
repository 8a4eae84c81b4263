/** Paths of properties, as `core/facts/paths.py` writes them: a name may have anything in it, also a slash. */

const write = (step: string): string => step.replaceAll('%', '%25').replaceAll('/', '%2F')
const read = (step: string): string => step.replace(/%(2F|25)/g, (sign) => (sign === '%2F' ? '/' : '%'))

export function pathOf(family: string, ...steps: string[]): string {
  return [family, ...steps.map(write)].join('/')
}

export function readPath(path: string): { family: string; steps: string[] } {
  const [family = '', ...steps] = path.split('/')
  return { family, steps: steps.map(read) }
}

/** The last step: what of a thing it is. */
export const lastOf = (path: string): string => readPath(path).steps.at(-1) ?? path
