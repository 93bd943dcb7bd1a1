/** A file as it is sent: its name, and its bytes as base64. */
export interface SentFile {
  name: string;
  content: string;
}

/** Read a chosen file. */
export async function fileAsBase64(file: File): Promise<SentFile> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  let text = '';
  // In pieces: a whole file is too many arguments for one call.
  for (let i = 0; i < bytes.length; i += 0x8000) text += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return { name: file.name, content: btoa(text) };
}
