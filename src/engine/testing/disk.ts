/** A disk that fills up, and that goes down. */
import type { ShelfFile } from '../cache/slots';

/** A file of which what was not flushed may be lost, write by write. */
export class Disk implements ShelfFile {
  bytes = new Uint8Array(0);
  /** Written since the last flush. */
  private unflushed: { at: number; before: Uint8Array; length: number }[] = [];
  /** Writes until the disk is full. */
  room = Infinity;

  read(into: Uint8Array, { at }: { at: number }): number {
    const part = this.bytes.subarray(at, at + into.length);
    into.set(part);
    return part.length;
  }

  write(from: Uint8Array, { at }: { at: number }): number {
    if (this.room-- <= 0) throw new DOMException('No room', 'QuotaExceededError');
    if (at + from.length > this.bytes.length) {
      const grown = new Uint8Array(at + from.length);
      grown.set(this.bytes);
      this.bytes = grown;
    }
    this.unflushed.push({ at, before: this.bytes.slice(at, at + from.length), length: from.length });
    this.bytes.set(from, at);
    return from.length;
  }

  flush(): void {
    this.unflushed = [];
  }

  close(): void {
    this.flush();
  }

  /** The power goes: of what was not flushed only what `stays` says is there. */
  crash(stays: (n: number) => boolean): void {
    this.unflushed.forEach(({ at, before }, n) => !stays(n) && this.bytes.set(before, at));
    this.unflushed = [];
  }
}
