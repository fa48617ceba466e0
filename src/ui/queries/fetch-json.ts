/** Reads JSON from our own server; a failure carries the server's words, a request given up in the middle rejects. */
export async function fetchJson<T>(url: string, init?: RequestInit): Promise<T> {
  const response = await fetch(url, init);
  if (response.ok) return (await response.json()) as T;
  const body = (await response.json().catch(() => ({}))) as {
    readonly problems?: readonly { readonly message: string; readonly hint?: string }[];
  };
  throw new Error(
    body.problems?.map((problem) => `${problem.message} ${problem.hint ?? ""}`.trim()).join(" ") ??
      `The server returned ${response.status}.`,
  );
}

/** Asks a question whose body is JSON. */
export const postJson = <T>(url: string, body: unknown, signal?: AbortSignal): Promise<T> =>
  fetchJson<T>(url, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
    ...(signal ? { signal } : {}),
  });
