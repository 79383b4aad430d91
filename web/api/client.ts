/** Thrown when the server refuses a request; the message is a sentence for people. */
export class ApiError extends Error {
  readonly status: number;
  readonly code: string;

  constructor(status: number, code: string, message: string) {
    super(message);
    this.name = 'ApiError';
    this.status = status;
    this.code = code;
  }
}

/** Asks the server and returns its answer. @throws {ApiError} */
export async function request<T>(path: string, init: RequestInit & { json?: unknown } = {}): Promise<T> {
  const { json, ...rest } = init;
  const options: RequestInit =
    json === undefined
      ? rest
      : { ...rest, body: JSON.stringify(json), headers: { 'Content-Type': 'application/json' } };
  const response = await fetch(`/api${path}`, options).catch(() => {
    throw new ApiError(
      0,
      'offline',
      'Northfen does not answer. It was probably closed: start it again the way you started it before, and leave this page open.',
    );
  });
  if (!response.ok) throw await errorFrom(response);
  return response.status === 204 ? (undefined as T) : ((await response.json()) as T);
}

async function errorFrom(response: Response): Promise<ApiError> {
  const body = (await response.json().catch(() => null)) as {
    error?: { code?: string; message?: string };
  } | null;
  const message = body?.error?.message ?? `Northfen answered with ${response.status}. Try again.`;
  return new ApiError(response.status, body?.error?.code ?? 'unknown', message);
}
