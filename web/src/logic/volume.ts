/** A volume in percent as decibels: of the amplitude, so that half of it is 6 dB less. */
function decibels(percent: number): number {
  return 20 * Math.log10(percent / 100)
}

export function sayDb(percent: number): string {
  if (percent <= 0) return 'silent'
  const db = Math.round(decibels(percent) * 10) / 10
  return db === 0 ? '0 dB' : `${db > 0 ? '+' : '−'}${Math.abs(db)} dB`
}
