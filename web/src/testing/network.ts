/** What lies between the screens under test and the server; a test may cut it, or make it forget an answer. */
const ask = globalThis.fetch;

/** As it is when nothing is wrong. Node's fetch knows no page that a path could belong to, so it is told the address; nor does
 *  it know jsdom's files, so it is given what they hold. */
async function reached(asked: RequestInfo | URL, init?: RequestInit): Promise<Response> {
  const body = init?.body instanceof Blob ? await bytesOf(init.body) : init?.body;
  const answer = ask(typeof asked === 'string' ? new URL(asked, window.location.href) : asked, init && { ...init, body });
  underWay.add(answer);
  const isOver = () => void underWay.delete(answer);
  answer.then(isOver, isOver);
  return answer;
}

/** Requests whose answers are still to come. */
const underWay = new Set<Promise<unknown>>();
const PATIENCE_MS = 3000;

/** Wait for the answers that are still to come, so that none arrives when the page of its test is gone. */
export async function quiet(): Promise<void> {
  const late = new Promise((give) => setTimeout(give, PATIENCE_MS));
  await Promise.race([Promise.allSettled(underWay), late]);
}

function bytesOf(blob: Blob): Promise<ArrayBuffer> {
  return new Promise((read) => {
    const reader = new FileReader();
    reader.onload = () => read(reader.result as ArrayBuffer);
    reader.readAsArrayBuffer(blob);
  });
}

export const network = { answer: reached };

/** Cut the next `times` requests that `meant` picks out: before the server hears of them, or before its answer arrives. */
export function silence(times: number, when: 'before' | 'after', meant: (request: Request) => boolean): void {
  let left = times;
  network.answer = async (asked, init) => {
    const request = asked instanceof Request ? asked : null;
    if (request === null || left === 0 || !meant(request)) return reached(asked, init);
    left -= 1;
    if (when === 'after') await reached(request, init);
    throw new TypeError('no answer');
  };
}

/** Answers to what `meant` picks out are told as `changed` has them, and when it has them. */
export function tellOtherwise<T>(meant: (request: Request) => boolean, changed: (said: T) => T | Promise<T>): void {
  network.answer = async (asked, init) => {
    const answer = await reached(asked, init);
    if (!(asked instanceof Request) || !meant(asked)) return answer;
    return Response.json(await changed((await answer.json()) as T));
  };
}

/** Everything is answered again. */
export function mend(): void {
  network.answer = reached;
}
