import { execFileSync } from 'node:child_process'
import { createHmac } from 'node:crypto'
import { expect, it } from 'vitest'
import { curlLine } from './curl'

it('signs as Standard Webhooks wants it, whatever the shell', () => {
  const key = `whsec_${Buffer.from('the key of the parcel office').toString('base64')}`
  const line = curlLine('http://127.0.0.1:8700/api/in/parcels', key)
  const said = execFileSync('sh', ['-c', line.replace('curl -X POST', 'printf "%s\\n"')], {
    encoding: 'utf8',
  })
  const rows = said.split('\n')
  const told = (name: string): string =>
    rows.find((row) => row.startsWith(`${name}: `))?.slice(name.length + 2) ?? ''
  const body = '{"text": "mind the gap"}'
  expect(rows).toContain(body)
  const signed = `${told('webhook-id')}.${told('webhook-timestamp')}.${body}`
  const wanted = createHmac('sha256', 'the key of the parcel office').update(signed).digest('base64')
  expect(told('webhook-signature')).toBe(`v1,${wanted}`)
})
