/** Visible timers: how long everything held is still on, for an overlay that only the streamer sees. */
import type { Schemas } from '@/api/client'
import { sayValue } from '@/logic/words'

export type TimerRow = Schemas['TimerRow']

const MOST = 8

function left(ms: number): string {
  const s = Math.max(0, Math.ceil(ms / 1000))
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`
}

/** Keeps a list of timers on the page; returns a function that takes other rows. */
export function makeTimers(now: () => number): (rows: TimerRow[]) => void {
  const list = document.createElement('div')
  list.dataset.timers = ''
  Object.assign(list.style, {
    position: 'fixed',
    right: '1.5vw',
    top: '1.5vw',
    display: 'grid',
    gap: '0.6vh',
    font: '600 3.4vh/1.25 "Bricolage Grotesque Variable", sans-serif',
    fontVariantNumeric: 'tabular-nums',
    color: '#f4eedd',
    zIndex: '2000',
  })
  document.body.append(list)
  let shown: TimerRow[] = []

  function draw(): void {
    const there = shown.filter((row) => row.until === null || row.until > now()).slice(0, MOST)
    list.replaceChildren(
      ...there.map((row) => {
        const line = document.createElement('div')
        Object.assign(line.style, {
          background: '#121d1b',
          borderRight: '0.8vh solid #f0a23c',
          padding: '0.4vh 1vw',
          display: 'flex',
          gap: '2vw',
          justifyContent: 'space-between',
        })
        const what = document.createElement('span')
        what.textContent = `${row.name}: ${sayValue(row.value)}`
        const time = document.createElement('b')
        time.textContent = row.until === null ? 'open' : left(row.until - now())
        line.append(what, time)
        return line
      }),
    )
  }
  window.setInterval(draw, 250)
  return (rows) => {
    shown = rows
    draw()
  }
}
