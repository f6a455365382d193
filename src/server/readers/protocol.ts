/** What the server and its reader processes say to each other. */

export interface ReaderLimits {
  /** Processor time of all threads of the process, milliseconds, from the moment the task arrives. */
  cpuMs: number;
  /** Resident memory, bytes: heap and buffers. */
  memoryBytes: number;
}

/** What a reader can be asked to do: cli/reader.ts has a function for each. */
export type TaskKind = 'picture' | 'pin' | 'piece' | 'unwrap' | 'collada' | 'brushes';

export interface PictureTask {
  path: string;
  name: string;
  as: 'colour' | 'data';
  /** Where the texels are written: uint16 of this machine's byte order, interleaved. */
  texels: string;
}

export interface PinTask {
  path: string;
  name: string;
  /** Where the WebP is written. */
  out: string;
}

export interface PieceTask {
  path: string;
}

export interface UnwrapTask {
  /** A GLB. */
  path: string;
  /** Side of the sheet in texels. */
  size: number;
  /** Where the GLB is written. */
  out: string;
}

export interface ColladaTask {
  path: string;
  /** Where the GLB is written. */
  out: string;
}

export interface BrushesTask {
  path: string;
  name: string;
  /** A folder; pictures of tips are written into it by their names. */
  out: string;
}

export interface ReaderTask {
  kind: TaskKind;
  limits: ReaderLimits;
  /** Plain data: it is sent as JSON. */
  input: unknown;
}

/** `refused`: the file is at fault, in one sentence. `failed`: we are; the error has been logged. */
export type ReaderAnswer = { type: 'done'; value: unknown } | { type: 'refused'; message: string } | { type: 'failed' };
/** `last`: the process ends now. */
export type FromReader = { answer: ReaderAnswer; last: boolean };

/** How a process ends that was over a limit. What the parent does not recognise is "died". */
export const OVER_TIME_SIGNAL = 'SIGXCPU';
export const OVER_MEMORY_SIGNAL = 'SIGTERM';
