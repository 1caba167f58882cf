import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type Outcome = Schemas['Outcome'];
export type Counts = Schemas['StationCounts'];
export type LineView = Schemas['LineView'];

/** What the server refused, in its own sentence. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    sentence: string,
  ) {
    super(sentence);
  }
}

export const client = createClient<paths>({ baseUrl: '/' });

function sentenceOf(error: unknown, status: number): string {
  const p = error as { detail?: string; errors?: { message?: string; location?: string }[] } | undefined;
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

/**
 * Carries out a command. The key makes it safe to send again when the connection
 * breaks: whatever arrives twice is done once. If `stop` cuts it off, the answer is what became of it:
 * its own outcome if it was done all the same, else one for which `wasStopped` holds.
 */
export async function command<P extends CommandPath>(
  path: P,
  what: AskOf<P>,
  reason?: string,
  key: string = crypto.randomUUID(),
  stop?: AbortSignal,
): Promise<Outcome> {
  for (let tries = 0; ; tries++) {
    let response: Response;
    try {
      response = await fetch(path, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', 'Idempotency-Key': key },
        body: JSON.stringify({ ask: what, reason: reason || undefined }),
        signal: stop,
      });
    } catch {
      if (stop?.aborted) return command('/api/stop', {}, undefined, key);
      if (tries < 2) {
        await new Promise((r) => setTimeout(r, 400 * (tries + 1)));
        continue;
      }
      throw new Refused(0, 'The server does not answer. It is not known whether this was done: look again before you repeat it.');
    }
    const body: unknown = await response.json().catch(() => undefined);
    if (!response.ok) throw new Refused(response.status, sentenceOf(body, response.status));
    return body as Outcome;
  }
}

/** Nothing was changed, and nothing will be. */
export const wasStopped = (o: Outcome) => o.verb === 'stop a command';
