import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type Outcome = Schemas['Outcome'];
export type Counts = Schemas['StationCounts'];
export type LineView = Schemas['LineView'];

/** How what the server says is put into words: as it says it itself, in English, until another way is named. */
let wording = (said: Schemas['Said']): string => said.text;
export const wordBy = (way: typeof wording) => {
  wording = way;
};

/** What the server refused, in a sentence. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    sentence: string,
  ) {
    super(sentence);
  }
}

/** When somebody last touched a key, the mouse or the screen. */
let lastTouched = Date.now();
for (const what of ['pointerdown', 'keydown', 'wheel'] as const) {
  addEventListener(what, () => (lastTouched = Date.now()), { capture: true, passive: true });
}

/** What a page asks by itself says so: a session in which nobody is there ends. */
const presence = (): Record<string, string> => (Date.now() - lastTouched > 60_000 ? { 'Journeyman-Idle': 'yes' } : {});

export const client = createClient<paths>({
  baseUrl: '/',
  fetch: (request: Request) => {
    for (const [name, value] of Object.entries(presence())) request.headers.set(name, value);
    return fetch(request);
  },
});

function sentenceOf(error: unknown, status: number): string {
  const p = error as Partial<Schemas['Problem']> | undefined;
  if (p?.said) return wording(p.said);
  const first = p?.errors?.[0];
  if (first?.message) return `${p?.detail ?? 'This was not accepted'}: ${first.location ?? ''} ${first.message}`;
  return p?.detail ?? `The server answered with ${status}. Try again in a moment.`;
}

/** Unwraps an answer: the data, or a Refused with the server's sentence. */
export async function ask<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let a;
  try {
    a = await answer;
  } catch {
    throw new Refused(0, 'The server does not answer. Check the connection; nothing is lost.');
  }
  if (a.data === undefined) throw new Refused(a.response.status, sentenceOf(a.error, a.response.status));
  return a.data;
}

export type CommandPath = {
  [P in keyof paths]: paths[P] extends {
    post: { parameters: { header: { 'Idempotency-Key': string } }; requestBody: { content: { 'application/json': unknown } } };
  }
    ? P
    : never;
}[keyof paths];

export type AskOf<P extends CommandPath> = paths[P] extends {
  post: { requestBody: { content: { 'application/json': { ask: infer A } } } };
}
  ? A
  : never;

/** The type of a problem after which it is not known whether the command was done. */
const outcomeUnknown = 'urn:journeyman:outcome-unknown';

/** Keys of commands of which it is not known whether they were done, by what they ask: pressed again, they are the same command. */
const unanswered = new Map<string, string>();
const nameOf = (path: string, body: string) => `${path} ${body}`;

/** The key under which a command is sent: a new one, or that of the same command of which no answer came. */
export function keyFor<P extends CommandPath>(path: P, what: AskOf<P>, reason?: string): string {
  return unanswered.get(nameOf(path, bodyFor(what, reason))) ?? crypto.randomUUID();
}

const bodyFor = (what: unknown, reason?: string) => JSON.stringify({ ask: what, reason: reason || undefined });

/** For how many milliseconds it is asked what became of a command. */
const askFor = 45_000;

/**
 * Carries out a command. The key makes it safe to send again when the connection
 * breaks: whatever arrives twice is done once, and the answer is what became of it. If none comes for long, the key is kept, so that
 * pressing again asks for the same command. If `stop` cuts it off, the answer is what became of it:
 * its own outcome if it was done all the same, else one for which `wasStopped` holds. `unsure` is called when it is not known for a while.
 */
export async function command<P extends CommandPath>(
  path: P,
  what: AskOf<P>,
  reason?: string,
  key: string = keyFor(path, what, reason),
  stop?: AbortSignal,
  unsure?: () => void,
): Promise<Outcome> {
  const body = bodyFor(what, reason);
  const name = nameOf(path, body);
  const began = Date.now();
  for (let tries = 1; ; tries++) {
    let response: Response | undefined;
    let answer: unknown;
    try {
      response = await fetch(path, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', 'Idempotency-Key': key },
        body,
        signal: stop,
      });
      answer = await response.json();
    } catch {
      if (stop?.aborted) return command('/api/stop', {}, undefined, key);
    }
    const unknown =
      !response ||
      response.status === 502 ||
      response.status === 504 ||
      (answer as { type?: string } | undefined)?.type === outcomeUnknown;
    if (response && !unknown) {
      unanswered.delete(name);
      if (!response.ok) throw new Refused(response.status, sentenceOf(answer, response.status));
      const outcome = answer as Outcome;
      return { ...outcome, sentence: wording(outcome.said) };
    }
    unanswered.set(name, key);
    if (Date.now() - began > askFor) {
      throw new Refused(
        0,
        'The server does not answer, and it is not known whether this was done. Press again once it does: it is done once at most.',
      );
    }
    unsure?.();
    await new Promise((r) => setTimeout(r, Math.min(400 * tries, 3000)));
  }
}

/** Nothing was changed, and nothing will be. */
export const wasStopped = (o: Outcome) => o.verb === 'stop a command';
