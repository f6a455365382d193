/**
 * The lines of an OBJ file (Wavefront OBJ specification, appendix B1), read as bytes: no text of the whole file is made. Lines end with
 * LF, CR LF or CR; a backslash at the end of one carries it on; what follows # is a comment.
 */
const [LF, CR, SPACE, TAB, HASH, BACKSLASH, SLASH] = [10, 13, 32, 9, 35, 92, 47];

export class ObjText {
  private at = 0;
  /** 1-based, for sentences. */
  line = 0;

  constructor(private readonly bytes: Uint8Array) {}

  /** Goes to the next line that begins with a word, and gives that word; null at the end. */
  nextLine(): string | null {
    const { bytes } = this;
    while (this.at < bytes.length) {
      if (this.line > 0 && !this.skipRest()) break;
      this.line++;
      this.skipBlanks();
      const c = bytes[this.at];
      if (this.at < bytes.length && !isEnd(c)) return this.word();
    }
    return null;
  }

  /** To behind the end of this line. */
  private skipRest(): boolean {
    const { bytes } = this;
    while (this.at < bytes.length) {
      const c = bytes[this.at++];
      if (c === BACKSLASH) this.skipBreak();
      else if (c === LF) return true;
      else if (c === CR) {
        if (bytes[this.at] === LF) this.at++;
        return true;
      }
    }
    return false;
  }

  private skipBreak(): void {
    if (this.bytes[this.at] === CR) this.at++;
    if (this.bytes[this.at] === LF) this.at++;
  }

  private skipBlanks(): void {
    const { bytes } = this;
    for (;;) {
      const c = bytes[this.at];
      if (c === SPACE || c === TAB) this.at++;
      else if (c === BACKSLASH && (bytes[this.at + 1] === LF || bytes[this.at + 1] === CR)) {
        this.at++;
        this.skipBreak();
      } else return;
    }
  }

  /** The next word of the line; empty at its end. */
  word(): string {
    this.skipBlanks();
    const from = this.at;
    while (this.at < this.bytes.length && !isBlank(this.bytes[this.at]) && !isEnd(this.bytes[this.at])) this.at++;
    return decoder.decode(this.bytes.subarray(from, this.at));
  }

  /** All that is left of the line, without blanks at its ends. */
  rest(): string {
    this.skipBlanks();
    const from = this.at;
    while (this.at < this.bytes.length && this.bytes[this.at] !== LF && this.bytes[this.at] !== CR) this.at++;
    return decoder.decode(this.bytes.subarray(from, this.at)).trim();
  }

  hasMore(): boolean {
    this.skipBlanks();
    return this.at < this.bytes.length && !isEnd(this.bytes[this.at]);
  }

  /** The next number of the line; NaN where there is none. */
  number(): number {
    this.skipBlanks();
    const { bytes } = this;
    const from = this.at;
    let at = from;
    const minus = bytes[at] === 45;
    if (minus || bytes[at] === 43) at++;
    let digits = 0;
    let value = 0;
    let point = -1;
    let c = bytes[at];
    for (; (c >= 48 && c <= 57) || (c === 46 && point < 0); c = bytes[++at]) {
      if (c === 46) point = digits;
      else {
        value = value * 10 + c - 48;
        digits++;
      }
    }
    // Anything out of the ordinary goes the long way.
    if (digits === 0 || digits > 15 || !isOver(c)) {
      const word = this.word();
      return word === '' ? NaN : Number(word);
    }
    this.at = at;
    if (point >= 0) value /= POWERS[digits - point];
    return minus ? -value : value;
  }

  /** A corner of a face into `out`: vertex, texture vertex, normal as they stand; 0 where one is left out. False: it is none. */
  corner(out: Float64Array): boolean {
    this.skipBlanks();
    const { bytes } = this;
    let at = this.at;
    out[1] = out[2] = 0;
    for (let k = 0; k < 3; k++) {
      const minus = bytes[at] === 45;
      if (minus) at++;
      let value = 0;
      for (let c = bytes[at]; c >= 48 && c <= 57; c = bytes[++at]) value = value * 10 + c - 48;
      out[k] = minus ? -value : value;
      if (bytes[at] !== SLASH) break;
      at++;
    }
    this.at = at;
    return isOver(bytes[at]) && out[0] !== 0;
  }
}

const decoder = new TextDecoder();
const POWERS = Array.from({ length: 16 }, (_, n) => 10 ** n);
const isBlank = (c: number): boolean => c === SPACE || c === TAB;
/** Behind a word: a blank, the end of the line or of the file, or a line that goes on. */
const isOver = (c: number): boolean => c === undefined || isBlank(c) || isEnd(c) || c === BACKSLASH;
const isEnd = (c: number): boolean => c === LF || c === CR || c === HASH;
