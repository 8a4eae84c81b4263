/** A WebSocket for tests: it opens, receives and drops on command. */
export class FakeSocket {
  static made: FakeSocket[] = []
  static OPEN = 1
  readyState = 0
  sent: string[] = []
  onopen: (() => void) | null = () => {}
  onclose: ((event: object) => void) | null = () => {}
  onmessage: ((event: { data: string }) => void) | null = () => {}

  constructor(readonly url: string) {
    FakeSocket.made.push(this)
  }

  static last(): FakeSocket {
    return FakeSocket.made.at(-1) as FakeSocket
  }

  open(): void {
    this.readyState = 1
    this.onopen?.()
  }

  drop(): void {
    this.readyState = 3
    this.onclose?.({})
  }

  send(text: string): void {
    this.sent.push(text)
  }

  close(): void {
    this.drop()
  }
}
