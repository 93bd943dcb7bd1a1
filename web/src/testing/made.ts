/** What a test made on the server, archived after it so that the lists of other tests stay short. */
const made = new Set<string>();

/** Remember something by the address it can be deleted at. */
export function remember(address: string): void {
  made.add(address);
}

export async function archiveWhatWasMade(): Promise<void> {
  const addresses = [...made];
  made.clear();
  // What cannot be archived, such as a batch in work, stays.
  await Promise.all(addresses.map((address) => fetch(address, { method: 'DELETE' })));
}
