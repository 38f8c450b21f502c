import { Problem } from './client.ts';

/**
 * Asks for a file and saves it under a name.
 * @throws Problem with what the server says where there is none
 */
export async function takeFile(path: string, name: string): Promise<void> {
  const response = await fetch(path).catch(() => null);
  if (response === null) throw new Problem(0, 'The server cannot be reached. Try again.', []);
  if (response.ok) return saveFile(await response.blob(), name);
  const answered = (await response.json().catch(() => null)) as { detail?: string } | null;
  throw new Problem(response.status, answered?.detail ?? 'The file could not be made.', []);
}

/** Saves what was made or fetched here as a file. */
export function saveFile(blob: Blob, name: string): void {
  const url = URL.createObjectURL(blob);
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 60_000);
}
