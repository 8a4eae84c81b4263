/** The way from this device to Cue Jar: it proves its key on every connection, and counts and signs what it asks for. The key never
 * crosses the network. It reconnects by itself. */
import { hmac } from '@noble/hashes/hmac.js'
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, hexToBytes, randomBytes, utf8ToBytes } from '@noble/hashes/utils.js'
import type { Schemas } from '@/api/client'
import { openLine, type Line } from '@/logic/socket'

export type PadsMessage = Schemas['PadsMessage']
export type PadsWish = Schemas['PadsWish']
type PadsSaid = Schemas['PadsSaid']

/** A device's own data; `key` is hex. While `pair` is set it is the link's. */
export interface Identity {
  device: string
  key: string
  pair?: boolean
}

export type LinkState =
  | { is: 'connecting' }
  | { is: 'in'; name: string; limited: boolean }
  | { is: 'away' }
  | { is: 'stranger' }
  | { is: 'refused'; why: Schemas['PadsRefused']['why'] }

export interface Told {
  state: (state: LinkState) => void
  hear: (message: PadsMessage) => void
  /** The device was paired: it must save this. */
  paired: (identity: Identity) => void
}

const LIMITS = { firstPauseMs: 300, openMs: 6000 }
const PING_MS = 2000
const AGAIN_MS = 5000
const NOT_THERE = 'There is no connection; nothing was done.'
const CUT = 'The connection was lost before the answer came. Check whether the cue is on.'

export function sign(key: string, ...words: string[]): string {
  return bytesToHex(hmac(sha256, hexToBytes(key), utf8ToBytes(words.join('\n'))))
}

/** Reads the part after the # of a link: an offer for pairing. */
export function offerOf(hash: string): Identity | null {
  const found = /^#pair\.([A-Za-z0-9_-]{1,40})\.([0-9a-f]{64})$/.exec(hash)
  return found ? { device: found[1] as string, key: found[2] as string, pair: true } : null
}

export class PadsLink {
  private line: Line
  private mine = ''
  private theirs = ''
  private count = 0
  private isIn = false
  private pinging: ReturnType<typeof setInterval>
  private answers = new Map<number, (why: string) => void>()
  /** Pads that were released while disconnected. */
  private toLetGo = new Set<string>()

  constructor(
    address: string,
    private identity: Identity,
    private readonly told: Told,
  ) {
    const heard = {
      trying: () => this.told.state({ is: 'connecting' }),
      open: () => this.greet(),
      hear: (message: PadsMessage) => this.hear(message),
      lost: (waitMs: number) => {
        this.forget()
        if (!waitMs) this.told.state({ is: 'away' })
      },
    }
    this.line = openLine<PadsMessage>(address, heard, LIMITS)
    this.pinging = setInterval(() => {
      if (this.isIn) this.say({ t: 'ping', sent: Date.now() })
    }, PING_MS)
  }

  /** Connects now, when the network is back or the page is visible again. */
  hurry(): void {
    this.line.hurry()
  }

  stop(): void {
    clearInterval(this.pinging)
    this.line.close()
    this.forget()
  }

  /** Sends a request. Returns why it wasn't done; empty if it was. */
  ask(wish: PadsWish): Promise<string> {
    if (!this.isIn) {
      if (wish.do === 'let_go') this.toLetGo.add(wish.cue)
      return Promise.resolve(NOT_THERE)
    }
    const n = ++this.count
    const body = JSON.stringify(wish)
    const signature = sign(this.identity.key, 'do', this.mine, this.theirs, String(n), body)
    this.say({ t: 'do', n, body, signature })
    return new Promise((resolve) => this.answers.set(n, resolve))
  }

  private say(said: PadsSaid): void {
    this.line.send(said)
  }

  private greet(): void {
    const { device, pair = false } = this.identity
    this.mine = bytesToHex(randomBytes(32))
    this.say({ t: 'hello', device, number: this.mine, pair })
  }

  /** Whoever waits for an answer is told that it won't come. */
  private forget(): void {
    this.isIn = false
    for (const answer of this.answers.values()) answer(CUT)
    this.answers.clear()
  }

  private hear(message: PadsMessage): void {
    if (message.t === 'challenge') {
      this.theirs = message.number
      const what = this.identity.pair ? 'pair' : 'prove'
      this.say({ t: 'prove', signature: sign(this.identity.key, what, this.mine, this.theirs) })
    } else if (message.t === 'paired') {
      const key = sign(this.identity.key, 'device', message.device, this.mine, this.theirs)
      this.identity = { device: message.device, key }
      this.told.paired(this.identity)
    } else if (message.t === 'welcome') this.welcomed(message)
    else if (message.t === 'refused') this.refused(message)
    else if (message.t === 'done') {
      this.answers.get(message.n)?.(message.what)
      this.answers.delete(message.n)
    } else if (this.isIn) this.told.hear(message)
  }

  private welcomed(message: Extract<PadsMessage, { t: 'welcome' }>): void {
    if (message.signature !== sign(this.identity.key, 'welcome', this.mine, this.theirs)) {
      this.stop()
      this.told.state({ is: 'stranger' })
      return
    }
    this.isIn = true
    this.count = 0
    this.line.steady()
    this.told.state({ is: 'in', name: message.name, limited: message.limited })
    for (const cue of this.toLetGo) void this.ask({ do: 'let_go', cue })
    this.toLetGo.clear()
  }

  private refused(message: Extract<PadsMessage, { t: 'refused' }>): void {
    const over = message.why === 'unknown' || message.why === 'expired'
    this.told.state({ is: 'refused', why: message.why })
    if (over) this.stop()
    else this.line.again(message.wait_ms || AGAIN_MS)
  }
}
