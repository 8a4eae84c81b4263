/** What is visible of a speech: the words as they are spoken, and a mouth that follows the sound. Loaded only when needed. */
import type { ShowMessage, SpeechInfo } from './types'

const LINE_WORDS = 8
const PAUSE_MS = 450
const BLINK_MS = 160
/** How long the words wait for a sound that is still loading. */
const WAITS_MS = 2500

/** The words on the caption at a moment: those of one breath, at most a line of them. */
function lineAt(words: SpeechInfo['words'], ms: number): { line: number[]; said: number } {
  let begin = 0
  let said = -1
  for (let i = 0; i < words.length; i += 1) {
    const word = words[i]
    const before = words[i - 1]
    if (!word) break
    if (before && (i - begin >= LINE_WORDS || word[3] !== before[3] || word[1] - before[2] > PAUSE_MS)) {
      if (word[1] > ms) break
      begin = i
    }
    if (word[1] <= ms) said = i
  }
  const line: number[] = []
  for (let i = begin; i < words.length && i - begin < LINE_WORDS; i += 1) {
    const word = words[i]
    const before = words[i - 1]
    if (!word || (i > begin && before && (word[3] !== before[3] || word[1] - before[2] > PAUSE_MS))) break
    line.push(i)
  }
  return { line, said }
}

function mouthAt(mouth: SpeechInfo['mouth'], ms: number): number {
  let state = 0
  for (const [at, picture] of mouth) {
    if (at > ms) break
    state = picture
  }
  return state
}

function box(place: { x: number; y: number; w: number; h: number }): HTMLElement {
  const node = document.createElement('div')
  Object.assign(node.style, {
    position: 'absolute',
    left: `${place.x * 100}%`,
    top: `${place.y * 100}%`,
    width: `${place.w * 100}%`,
    height: `${place.h * 100}%`,
  })
  return node
}

/** One picture for each state of the mouth, stacked; only one is visible. */
function mouthIn(node: HTMLElement, message: ShowMessage, told: SpeechInfo): (ms: number) => void {
  const place = message.look.mouth_place ?? { x: 0.72, y: 0.3, w: 0.24, h: 0.44 }
  const face = box(place)
  face.dataset.part = 'mouth'
  const urls = [...told.pictures, ...(told.blink ? [told.blink] : [])]
  const pictures = urls.map((url) => {
    const picture = document.createElement('img')
    picture.src = url
    picture.alt = ''
    Object.assign(picture.style, {
      position: 'absolute',
      inset: '0',
      width: '100%',
      height: '100%',
      objectFit: 'contain',
    })
    face.append(picture)
    return picture
  })
  node.append(face)
  let blinkAt = 900
  return (ms) => {
    const speech = message.speech ?? told
    let shown = Math.min(mouthAt(speech.mouth, ms), speech.pictures.length - 1)
    if (shown === 0 && speech.blink) {
      if (ms > blinkAt + BLINK_MS) blinkAt = ms + 1800 + ((ms * 7919) % 2600)
      else if (ms > blinkAt) shown = speech.pictures.length
    }
    face.dataset.shown = String(shown)
    pictures.forEach((picture, i) => (picture.style.visibility = i === shown ? 'visible' : 'hidden'))
  }
}

function captionIn(node: HTMLElement, message: ShowMessage, told: SpeechInfo): (ms: number) => void {
  const place = message.look.place ?? { x: 0.1, y: 0.75, w: 0.8, h: 0.18 }
  const holder = box(place)
  holder.dataset.part = 'caption'
  Object.assign(holder.style, { display: 'grid', placeItems: 'center' })
  const plate = document.createElement('span')
  Object.assign(plate.style, {
    font: `600 ${(message.look.size ?? 0.06) * 100}cqh/1.25 "Atkinson Hyperlegible", sans-serif`,
    color: '#f4eedd',
    background: '#121d1b',
    padding: '0.2em 0.7em',
    borderRadius: '0.3em',
    textAlign: 'center',
    overflowWrap: 'anywhere',
    maxHeight: '100%',
    overflow: 'hidden',
    visibility: 'hidden',
  })
  holder.append(plate)
  node.append(holder)
  let shown = ''
  return (ms) => {
    // Its words may arrive after its beginning is heard.
    const speech = message.speech ?? told
    const { line, said } = lineAt(speech.words, ms)
    const key = `${line[0]}/${line.length}/${said}`
    if (key === shown) return
    shown = key
    plate.replaceChildren()
    const name = speech.words[line[0] ?? 0]?.[3]
    const several = new Set(speech.words.map((word) => word[3])).size > 1
    if (name && several) {
      const label = document.createElement('b')
      label.textContent = `${name}: `
      label.style.color = '#f0a23c'
      plate.append(label)
    }
    for (const i of line) {
      const word = document.createElement('span')
      word.textContent = `${speech.words[i]?.[0] ?? ''} `
      word.style.opacity = i <= said ? '1' : '0.55'
      if (i === said) word.dataset.said = 'now'
      plate.append(word)
    }
    plate.style.visibility = line.length ? 'visible' : 'hidden'
  }
}

export function playSpeech(node: HTMLElement, message: ShowMessage, now: () => number): () => void {
  const speech = message.speech
  if (!speech) return () => {}
  const follow: ((ms: number) => void)[] = []
  if (message.look.mouth && speech.pictures.length > 1) follow.push(mouthIn(node, message, speech))
  if (message.look.caption !== false) follow.push(captionIn(node, message, speech))
  const sound = node.querySelector('audio')
  let frame = 0
  let began = false
  const tick = (): void => {
    // The sound's own clock while it plays, so that mouth and words follow it; they wait for it at first.
    const gone = now() - message.at
    const plays = Boolean(sound && !sound.paused && sound.currentTime > 0)
    began ||= plays
    const waits = sound && !began && !sound.dataset.blocked && gone < WAITS_MS
    const ms = sound && plays ? sound.currentTime * 1000 : waits ? 0 : gone
    for (const part of follow) part(ms)
    frame = requestAnimationFrame(tick)
  }
  tick()
  return () => cancelAnimationFrame(frame)
}
