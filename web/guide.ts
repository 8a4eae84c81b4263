/** The pages of `docs/` as modules: rendered when the app is built, with their pictures, links and sections. */
import { readFileSync } from 'node:fs'
import { dirname, posix, relative, resolve, sep } from 'node:path'
import MarkdownIt from 'markdown-it'
import type { Plugin } from 'vite'

const DOCS = resolve(import.meta.dirname, '..', 'docs')
/** The shelves in the app. */
const SHELVES = /^(guide|reference)\//

/** A page's id: `guide/cues`. */
function idOf(file: string): string {
  return relative(DOCS, file).split(sep).join('/').replace(/\.md$/, '')
}

function anchorOf(heading: string): string {
  return heading
    .toLowerCase()
    .replace(/[^\p{L}\p{N} -]/gu, '')
    .replaceAll(' ', '-')
}

interface Section {
  anchor: string
  heading: string
  text: string
}

function rendered(file: string): { html: string; pictures: string[]; title: string; sections: Section[] } {
  const pictures: string[] = []
  const sections: Section[] = []
  const md = new MarkdownIt({ typographer: false })
  const env: { leads?: boolean[] } = { leads: [] }
  const tokens = md.parse(readFileSync(file, 'utf8'), env)
  tokens.forEach((token, at) => {
    const inside = tokens[at + 1]?.content ?? ''
    if (token.type === 'heading_open') {
      const heading = inside.replaceAll('*', '').replaceAll('`', '')
      sections.push({ anchor: anchorOf(heading), heading, text: '' })
      token.attrSet('id', anchorOf(heading))
    }
    const last = sections.at(-1)
    if (last && (token.type === 'inline' || token.type === 'fence')) last.text += ` ${token.content}`
  })
  md.renderer.rules.image = (all, at) => {
    const token = all[at]
    pictures.push(resolve(dirname(file), token?.attrGet('src') ?? ''))
    return `<img src="@@${pictures.length - 1}@@" alt="${md.utils.escapeHtml(token?.content ?? '')}" loading="lazy">`
  }
  md.renderer.rules.link_open = (all, at) => {
    const [path = '', anchor = ''] = (all[at]?.attrGet('href') ?? '').split('#')
    const target = path
      ? posix.normalize(`${posix.dirname(idOf(file))}/${path.replace(/\.md$/, '')}`)
      : idOf(file)
    const leads = SHELVES.test(target) && (!path || path.endsWith('.md'))
    env.leads?.push(leads)
    return leads ? `<a href="#" data-page="${target}" data-anchor="${md.utils.escapeHtml(anchor)}">` : ''
  }
  md.renderer.rules.link_close = () => (env.leads?.pop() ? '</a>' : '')
  const html = md.renderer.render(tokens, md.options, env)
  return { html, pictures, title: sections[0]?.heading ?? idOf(file), sections }
}

export function guide(): Plugin {
  return {
    name: 'guide',
    enforce: 'pre',
    load(id) {
      const file = id.split('?')[0] ?? ''
      if (!file.endsWith('.md') || !file.startsWith(DOCS)) return null
      const { html, pictures, title, sections } = rendered(file)
      this.addWatchFile(file)
      const imports = pictures.map((path, at) => `import p${at} from ${JSON.stringify(`${path}?url`)}`)
      const parts = html.split(/@@(\d+)@@/).map((part, at) => (at % 2 ? `p${part}` : JSON.stringify(part)))
      const page = { id: idOf(file), title, sections }
      return `${imports.join('\n')}\nexport default { ...${JSON.stringify(page)}, html: ${parts.join(' + ')} }`
    },
  }
}
