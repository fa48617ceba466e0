/** Reads JSON from our own server; a failure carries the server's words. */
export async function fetchJson<T>(url: string, init?: RequestInit): Promise<T> {
  const response = await fetch(url, init);
  const body = (await response.json().catch(() => ({}))) as T & { problems?: readonly { message: string; hint?: string }[] };
  if (!response.ok) throw new Error(body.problems?.map((each) => `${each.message} ${each.hint ?? ""}`.trim()).join(" ") ?? `The server answered ${response.status}.`);
  return body;
}
