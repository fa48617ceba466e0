/** Reads JSON from our own server; a failure carries the server's words, a request given up in the middle rejects. */
export async function fetchJson<T>(url: string, init?: RequestInit): Promise<T> {
  const response = await fetch(url, init);
  if (response.ok) return (await response.json()) as T;
  const body = (await response.json().catch(() => ({}))) as { readonly problems?: readonly { readonly message: string; readonly hint?: string }[] };
  throw new Error(body.problems?.map((each) => `${each.message} ${each.hint ?? ""}`.trim()).join(" ") ?? `The server answered ${response.status}.`);
}
