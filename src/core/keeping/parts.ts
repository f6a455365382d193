/** Several blobs in one body: for each a little-endian uint32 length, then its bytes. */

export function joinBlobs(blobs: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(blobs.reduce((n, b) => n + 4 + b.length, 0));
  const view = new DataView(out.buffer);
  let at = 0;
  for (const blob of blobs) {
    view.setUint32(at, blob.length, true);
    out.set(blob, at + 4);
    at += 4 + blob.length;
  }
  return out;
}

/** null if it is cut short. */
export function splitBlobs(bytes: Uint8Array): Uint8Array[] | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const out: Uint8Array[] = [];
  for (let at = 0; at < bytes.length;) {
    if (at + 4 > bytes.length) return null;
    const length = view.getUint32(at, true);
    if (at + 4 + length > bytes.length) return null;
    out.push(bytes.subarray(at + 4, at + 4 + length));
    at += 4 + length;
  }
  return out;
}

/** Blobs in groups of at most so many bytes; one that is larger goes alone. */
export function* inParts<T>(items: Iterable<readonly [T, Uint8Array]>, most: number): Generator<[T, Uint8Array][]> {
  let part: [T, Uint8Array][] = [];
  let size = 0;
  for (const [key, blob] of items) {
    if (part.length && size + blob.length > most) {
      yield part;
      part = [];
      size = 0;
    }
    part.push([key, blob]);
    size += blob.length;
  }
  if (part.length) yield part;
}
