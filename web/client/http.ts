/** An error that the server said (RFC 9457). */
export class ServerProblem extends Error {
  constructor(
    readonly status: number,
    readonly type: string,
    detail: string,
    readonly body: Record<string, unknown>,
  ) {
    super(detail);
  }
}

/** Asks the API and gives the JSON; throws ServerProblem, whose message can be shown. */
export function ask<T>(method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE', path: string, body?: unknown): Promise<T> {
  return send(path, {
    method,
    headers: body === undefined ? {} : { 'content-type': 'application/json' },
    body: body === undefined ? undefined : JSON.stringify(body),
  });
}

/** As `ask`, with a form that may hold a file. */
export function askForm<T>(path: string, form: FormData): Promise<T> {
  return send(path, { method: 'POST', body: form });
}

async function send<T>(path: string, request: RequestInit): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, { ...request, headers: { ...request.headers, 'x-stone-porch': 'web' } });
  } catch {
    throw new ServerProblem(
      0,
      'no-connection',
      "The server can't be reached. Check your connection and try again; nothing is lost.",
      {},
    );
  }
  const text = await response.text();
  const answer = text === '' ? undefined : (JSON.parse(text) as unknown);
  if (response.ok) return answer as T;
  const problem = (answer ?? {}) as Record<string, unknown>;
  throw new ServerProblem(
    response.status,
    String(problem.type ?? '')
      .split(':')
      .at(-1)!,
    String(problem.detail ?? 'Something went wrong. Try again.'),
    problem,
  );
}

export function problemText(error: unknown): string {
  return error instanceof Error ? error.message : 'Something went wrong. Try again.';
}
