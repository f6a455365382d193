/** What went wrong, said as what it is. */
import { UnreadablePiece } from './pieces';

export interface Fault {
  status: 400 | 422 | 500 | 503;
  message: string;
  /** Worth a line on the server's own output. */
  log: boolean;
}

/** PostgreSQL's classes of errors (its manual, appendix A) that pass by themselves or when somebody makes room. */
const PASSING = ['08', '53', '55', '57', '58', '25006', '40001', '40P01'];
/** Text that PostgreSQL cannot keep: NUL, half of a surrogate pair, bytes that are no text. */
const NO_TEXT = new Set(['22P05', '22P02', '22021']);
const UNREACHABLE = new Set(['ECONNREFUSED', 'ECONNRESET', 'ENOTFOUND', 'EPIPE', 'ETIMEDOUT', 'EHOSTUNREACH']);

export function faultOf(error: unknown): Fault {
  for (let e = error, n = 0; e && n < 8; e = (e as { cause?: unknown }).cause, n++) {
    if (e instanceof UnreadablePiece) return { status: 422, message: e.message, log: false };
    const { code, message = '', name } = e as { code?: string; message?: string; name?: string };
    if (name === 'AbortError' || code === 'ERR_STREAM_PREMATURE_CLOSE' || message === 'aborted')
      return { status: 400, message: 'The request was cut short: send it again.', log: false };
    if (typeof code === 'string' && NO_TEXT.has(code))
      return {
        status: 422,
        message: 'Some text holds characters that cannot be kept (NUL, or half of a symbol): take them out and try again.',
        log: false,
      };
    if (typeof code === 'string' && code === '53100')
      return { status: 503, message: 'The disk of the database is full: make room, then it goes on by itself.', log: true };
    if (
      (typeof code === 'string' && (UNREACHABLE.has(code) || PASSING.some((p) => code.startsWith(p)))) ||
      /Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error/.test(message)
    )
      return { status: 503, message: 'The server could not reach its database: it will be tried again.', log: false };
    if (e instanceof RangeError && /call stack/.test(message))
      return { status: 400, message: 'The request is nested too deeply to be read.', log: false };
  }
  return { status: 500, message: 'Something went wrong inside the server: its output says what.', log: true };
}
