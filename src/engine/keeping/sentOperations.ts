/** The last operations that the server has taken from this page, within a budget: what can be given back to a server that was set back. */
import type { Operation } from '../../core/keeping/operation';
import { KEEPING } from '../../core/keeping/protocol';
import type { TileVersion } from '../../core/tile/tiles';

/** An operation on its way to the server. */
export interface Waiting {
  id: string;
  operation: Operation;
  /** Tiles that it brings: in memory, or (null) in the journal. */
  blobs: Map<string, Uint8Array> | null;
  /** Where tiles that the server turns out to lack are packed from. */
  versions: Map<string, TileVersion>;
}

/** Its tiles are packed anew where the server lacks them. */
interface Sent {
  revision: number;
  waiting: Waiting;
  bytes: number;
}

export class SentOperations {
  private sent: Sent[] = [];
  private bytes = 0;

  add(revision: number, { id, operation, versions }: Waiting): void {
    const bytes = bytesOf(versions.values());
    this.sent.push({ revision, bytes, waiting: { id, operation, versions, blobs: new Map() } });
    this.bytes += bytes;
    while (this.sent.length > KEEPING.givenBackOperations || this.bytes > KEEPING.givenBackBytes)
      this.bytes -= this.sent.shift()!.bytes;
  }

  /** Those that led from one revision to another, in order; null: one of them is not here any more. */
  after(from: number, to: number): Waiting[] | null {
    const found = this.sent.filter((s) => s.revision > from && s.revision <= to);
    return found.length === to - from ? found.map((s) => s.waiting) : null;
  }
}

function bytesOf(versions: Iterable<TileVersion>): number {
  let sum = 0;
  for (const { data } of versions) sum += data?.byteLength ?? 0;
  return sum;
}
