/** A file as it is sent: its name, and its bytes as base64. */
export interface SentFile {
  name: string;
  content: string;
}

/** Read a chosen file. */
export function fileAsBase64(file: File): Promise<SentFile> {
  return new Promise((resolve, reject) => {
    const reader = new FileReader();
    // `data:text/csv;base64,...`: what stands behind the comma.
    reader.onload = () => resolve({ name: file.name, content: (typeof reader.result === 'string' ? reader.result : '').split(',')[1] ?? '' });
    reader.onerror = () => reject(reader.error ?? new Error('The file cannot be read.'));
    reader.readAsDataURL(file);
  });
}
