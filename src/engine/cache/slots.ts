/**
 * A file of equal slots with an index before them, for what can be had again. Layout: `most` entries (a body, and its check), then as
 * many slots. An entry is taken away before its slot is written, and comes back after: a crash in between leaves one less, never a
 * wrong one.
 */

/** As much of a file system's access handle as is needed here. */
export interface ShelfFile {
  read(into: Uint8Array<ArrayBuffer>, options: { at: number }): number;
  write(from: Uint8Array<ArrayBuffer>, options: { at: number }): number;
  flush(): void;
  close(): void;
}

export interface SlotShape {
  /** Entries of the index. */
  most: number;
  /** Bytes of an entry's body; its check takes four more. The first byte is never zero. */
  body: number;
  /** Bytes of a slot. */
  slot: number;
}

export interface Filled {
  body: Uint8Array<ArrayBuffer>;
  /** null: all of it is in the body. */
  slot: Uint8Array<ArrayBuffer> | null;
}

export class Slots {
  private free: number[] = [];
  private next = 0;
  /** It could not be written to: no room, or the file is gone. It is read on. */
  private full = false;

  /** `found`: told of each entry that is whole; says whether it makes sense. */
  constructor(
    private file: ShelfFile,
    private shape: SlotShape,
    /** Beyond this place nothing is written. */
    private mostUsed: number,
    found: (at: number, body: DataView<ArrayBuffer>) => boolean,
  ) {
    const entry = shape.body + 4;
    const index = new Uint8Array(shape.most * entry);
    const bytes = file.read(index, { at: 0 });
    const view = new DataView(index.buffer);
    for (let at = 0; at < shape.most && (at + 1) * entry <= bytes; at++) {
      const o = at * entry;
      if (index[o] === 0) continue;
      this.next = at + 1;
      const whole = view.getUint32(o + shape.body, true) === check(index, o, shape.body);
      if (!whole || !found(at, new DataView(index.buffer, o, shape.body))) this.free.push(at);
    }
  }

  get writable(): boolean {
    return !this.full;
  }

  /** false: it cannot be read. */
  read(at: number, into: Uint8Array<ArrayBuffer>): boolean {
    const { most, body, slot } = this.shape;
    try {
      return this.file.read(into, { at: most * (body + 4) + at * slot }) === into.length;
    } catch {
      return false;
    }
  }

  /**
   * Frees the slots `removed` and stores `added` in free ones. Returns the slots used, one for each of `added` from the first on: fewer if
   * the file is full, none if it cannot be written.
   */
  replace(removed: readonly number[], added: readonly Filled[]): number[] {
    if (this.full) return [];
    const { most, body, slot } = this.shape;
    const entry = body + 4;
    const { file } = this;
    try {
      for (const at of removed) file.write(new Uint8Array(entry), { at: at * entry });
      this.free.push(...removed);
      if (removed.length > 0) file.flush();
      const places: number[] = [];
      for (const { slot: bytes } of added) {
        const at = this.free.pop() ?? (this.next < this.mostUsed ? this.next++ : -1);
        if (at < 0) break;
        if (bytes && file.write(bytes, { at: most * entry + at * slot }) !== bytes.length)
          throw new Error('The file was cut short');
        places.push(at);
      }
      file.flush();
      places.forEach((at, n) => {
        const bytes = new Uint8Array(entry);
        bytes.set(added[n].body);
        new DataView(bytes.buffer).setUint32(body, check(bytes, 0, body), true);
        file.write(bytes, { at: at * entry });
      });
      file.flush();
      return places;
    } catch {
      // Everything in the file can be rendered or fetched again.
      this.full = true;
      return [];
    }
  }

  close(): void {
    this.file.close();
  }
}

/** FNV-1a (Fowler, Noll, Vo). */
function check(bytes: Uint8Array, from: number, length: number): number {
  let hash = 0x811c9dc5;
  for (let i = from; i < from + length; i++) hash = Math.imul(hash ^ bytes[i], 0x01000193);
  return hash >>> 0;
}
