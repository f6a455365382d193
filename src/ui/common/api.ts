/** What the server answers, whatever that is; else an Error with one sentence. */
export async function answered(path: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(path, init);
  } catch {
    throw new Error('The server does not answer: check that Brindle is running, then try again.');
  }
  if (response.ok) return response;
  const body = (await response.json().catch(() => ({}))) as { message?: string };
  throw new Error(body.message ?? `The server refused (${response.status}).`);
}

/** Asking the server from a page: an answer, or an Error with one sentence. */
export async function ask<T>(path: string, init?: RequestInit): Promise<T> {
  return (await (await answered(path, init)).json().catch(() => ({}))) as T;
}

export function download(bytes: Uint8Array<ArrayBuffer>, name: string): void {
  const url = URL.createObjectURL(new Blob([bytes]));
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 60_000);
}

export function ago(iso: string | number, now = Date.now()): string {
  const seconds = Math.max(0, Math.round((now - new Date(iso).getTime()) / 1000));
  if (seconds < 60) return `${seconds} s ago`;
  if (seconds < 3600) return `${Math.floor(seconds / 60)} min ago`;
  if (seconds < 86400) return `${Math.floor(seconds / 3600)} h ago`;
  return `${Math.floor(seconds / 86400)} d ago`;
}
