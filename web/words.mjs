/** Prints every text that the pages may show, one JSON object per line: its file, line, context, and the text with … for values. */
import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { parse } from '@vue/compiler-sfc'
import ts from 'typescript'

const READ = new Set(['title', 'placeholder', 'alt', 'aria-label', 'label', 'hint', 'name', 'description'])
const READ_ENDING = /(text|label|title|name|hint)$/
const root = 'src'

function tell(file, line, at, text) {
  const words = text.replace(/\s+/g, ' ').trim()
  if (/[A-Za-z]{2}/.test(words)) console.log(JSON.stringify({ file: `web/${file}`, line, at, text: words }))
}

/** Whether it looks like words, not like a key, a class, a path or a selector. */
function isSaid(text) {
  return /^[A-Z][a-z]+[ .…?!]?$|[A-Za-z’'”%)…,:] [A-Za-z“(…0-9]/.test(text.trim()) && !/^[.#[]|[{};=<>]|::|--|^\w+-\w+/.test(text)
}

function literals(node, file, source, from, at) {
  const visit = (one) => {
    if (ts.isImportDeclaration(one) || ts.isTypeNode(one) || ts.isInterfaceDeclaration(one)) return
    const line = from + source.getLineAndCharacterOfPosition(one.getStart(source)).line
    if (ts.isStringLiteral(one) || ts.isNoSubstitutionTemplateLiteral(one)) {
      if (isSaid(one.text)) tell(file, line, at, one.text)
    } else if (ts.isTemplateExpression(one)) {
      const text = one.head.text + one.templateSpans.map((span) => `…${span.literal.text}`).join('')
      if (isSaid(text)) tell(file, line, at, text)
    }
    ts.forEachChild(one, visit)
  }
  visit(node)
}

function script(code, file, from, at) {
  const source = ts.createSourceFile(file, code, ts.ScriptTarget.Latest, true)
  literals(source, file, source, from, at)
}

function template(node, file, at) {
  if (node.type === 1) {
    for (const prop of node.props) {
      if (prop.type === 6 && prop.value && (READ.has(prop.name) || READ_ENDING.test(prop.name)))
        tell(file, prop.loc.start.line, prop.name, prop.value.content)
      else if (prop.type === 7 && prop.exp && prop.name !== 'for')
        script(`(${prop.exp.content})`, file, prop.exp.loc.start.line, prop.arg?.content ?? prop.name)
    }
    const name = node.tag
    const text = node.children.map((one) => (one.type === 2 ? one.content : one.type === 5 ? '…' : ' ')).join('')
    tell(file, node.loc.start.line, name, text)
  }
  if (node.type === 5) script(`(${node.content.content})`, file, node.loc.start.line, at)
  for (const child of node.children ?? []) if (typeof child === 'object') template(child, file, node.tag ?? at)
}

function look(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const file = join(folder, entry.name)
    if (entry.isDirectory()) look(file)
    else if (/\.test\.ts$|fake|schema\.d\.ts$|src\/controls\//.test(file)) continue
    else if (file.endsWith('.ts')) script(readFileSync(file, 'utf8'), file, 1, 'script')
    else if (file.endsWith('.vue')) {
      const { descriptor } = parse(readFileSync(file, 'utf8'), { filename: file })
      const code = descriptor.scriptSetup ?? descriptor.script
      if (code) script(code.content, file, code.loc.start.line, 'script')
      if (descriptor.template?.ast) template(descriptor.template.ast, file, 'template')
    }
  }
}
look(root)
