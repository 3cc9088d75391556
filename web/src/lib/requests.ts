import { CancelledError, MutationObserver, QueryClient } from "@tanstack/query-core";
import { sentence } from "../api/client";
import { s } from "../strings";

/** An answer that is no success. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly problem: unknown,
    /** When to ask again, in ms; null where that would not help. */
    readonly againMs: number | null,
  ) {
    super(sentence(problem, s.errors.offline));
  }
}

/** How often a busy server is asked again. */
const AGAIN = 3;
const retry = (failed: number, e: Error) => e instanceof Refusal && e.againMs !== null && failed < AGAIN;
const retryDelay = (_: number, e: Error) => (e instanceof Refusal ? (e.againMs ?? 0) : 0);
const how = { retry, retryDelay, networkMode: "always", gcTime: 0 } as const;
export const requests = new QueryClient({ defaultOptions: { queries: { ...how, staleTime: 0 }, mutations: how } });

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The answer itself, or why there is none. */
async function settled<T>(asked: Promise<Answer<T>>): Promise<T> {
  const { data, error, response } = await asked;
  if (response.ok) return data as T;
  const again = response.status === 503 ? response.headers.get("Retry-After") : null;
  throw new Refusal(response.status, error, again === null ? null : 1000 * Number(again));
}

let asked = 0;

/** Asks. What was asked under the same name before is cancelled, and answered with nothing. */
export async function newest<T>(
  name: string,
  ask: (signal: AbortSignal) => Promise<Answer<T>>,
): Promise<T | undefined> {
  void overtake(name);
  try {
    const queryKey = [name, ++asked];
    return await requests.fetchQuery({ queryKey, queryFn: ({ signal }) => settled(ask(signal)) });
  } catch (e) {
    if (e instanceof CancelledError) return undefined;
    throw e;
  }
}

/** Cancels what is asked under a name. */
export const overtake = (name: string) => requests.cancelQueries({ queryKey: [name] });

/** True while something is asked under a name. */
export const isAsking = (name: string) => requests.isFetching({ queryKey: [name] }) > 0;

/** Changes something, each after the one before of the same name has ended. */
export function inTurn<T>(name: string, change: () => Promise<Answer<T>> | null): Promise<T | undefined> {
  const mutationFn = async () => {
    const asked = change();
    return asked ? settled(asked) : undefined;
  };
  return new MutationObserver<T | undefined, Error, void>(requests, { mutationFn, scope: { id: name } }).mutate();
}

/** What to say of a request that failed. */
export const failure = (e: unknown) => (e instanceof Refusal ? e.message : s.errors.offline);
