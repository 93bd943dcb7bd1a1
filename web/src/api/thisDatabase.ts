/** The database that this page was loaded from, by the name that the server wrote into it; empty where none is known, as while
 *  the front end is being built. What is not saved yet belongs to it, whatever is served at this address later. */
export function thisDatabase(): string {
  return document.querySelector<HTMLMetaElement>('meta[name="sapolin-database"]')?.content ?? '';
}
