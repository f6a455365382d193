/** Bakes on the server: asked for, watched, cancelled, taken. */
import { sha256 } from '@/core/codec/tileBlob';
import { specText, type BakeSpec } from '@/core/kinds/bakes/spec';
import type { BakeStatus } from '@/core/kinds/bakes/status';

async function ask<T>(path: string, init?: RequestInit): Promise<T> {
  const response = await fetch(path, init).catch(() => {
    throw new Error('The server does not answer: bakes go on when it is back.');
  });
  const body = (await response.json().catch(() => ({}))) as T & { message?: string };
  if (!response.ok) throw new Error(body.message ?? `The server refused (${response.status}).`);
  return body;
}

export const keyOf = (spec: BakeSpec): Promise<string> => sha256(new TextEncoder().encode(specText(spec)));

export const request = (spec: BakeSpec, pieceId: string, label: string): Promise<BakeStatus> =>
  ask('/api/bakes', { method: 'POST', body: JSON.stringify({ spec, pieceId, label }) });

export const statusOf = (keys: readonly string[]): Promise<BakeStatus[]> =>
  keys.length ? ask(`/api/bakes?keys=${keys.join()}`) : Promise.resolve([]);

export const cancel = (key: string): Promise<unknown> => ask(`/api/bakes/${key}`, { method: 'DELETE' });

/** Sends the file of a dense model; its address. */
export const sendTwin = (file: File): Promise<{ hash: string; size: number }> =>
  ask(`/api/twins?name=${encodeURIComponent(file.name)}`, { method: 'POST', body: file });
