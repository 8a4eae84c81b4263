/** A shell line that calls an inlet, signed by Standard Webhooks, again on every run. */
const PREFIX = 'whsec_'

function hexOf(key: string): string {
  const bytes = atob(key.slice(PREFIX.length))
  return [...bytes].map((one) => one.charCodeAt(0).toString(16).padStart(2, '0')).join('')
}

export function curlLine(address: string, key: string, body = '{"text": "mind the gap"}'): string {
  return [
    `body='${body}'`,
    'now=$(date +%s)',
    'id=msg_$now',
    `sig=$(printf '%s.%s.%s' "$id" "$now" "$body" | openssl dgst -sha256 -mac HMAC -macopt hexkey:${hexOf(key)} -binary | base64)`,
    `curl -X POST '${address}' -H 'content-type: application/json' -H "webhook-id: $id" -H "webhook-timestamp: $now" -H "webhook-signature: v1,$sig" -d "$body"`,
  ].join('; ')
}
