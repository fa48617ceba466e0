import { refusal } from "./origin-guard";

const ask = (method: string, headers: Readonly<Record<string, string>>, url = "/"): string | undefined =>
  refusal({ method, headers, url }, 4380);

test.each([
  ["cross-site", "/api/export/table?format=csv", false],
  ["same-site", "/api/tables/rows", false],
  ["same-origin", "/api/export/table?format=csv", true],
  ["none", "/api/health", true],
  ["cross-site", "/pipelines/one", true],
])("reading by a page that is %s of %s", (site, url, allowed) => {
  const headers = { host: "127.0.0.1:4380", "sec-fetch-site": site };
  expect(ask("GET", headers, url) === undefined).toBe(allowed);
});

test.each([
  ["reading from our own address", "GET", { host: "127.0.0.1:4380" }, true],
  ["reading by the name localhost", "GET", { host: "LOCALHOST:4380" }, true],
  ["another name that points here", "GET", { host: "evil.example:4380" }, false],
  ["another port", "GET", { host: "127.0.0.1:80" }, false],
  ["no host", "GET", {}, false],
  [
    "a change from our own page",
    "POST",
    { host: "127.0.0.1:4380", origin: "http://127.0.0.1:4380", "sec-fetch-site": "same-origin" },
    true,
  ],
  ["a change from another page", "POST", { host: "127.0.0.1:4380", origin: "http://evil.example" }, false],
  [
    "a change from another port of this machine",
    "POST",
    { host: "127.0.0.1:4380", origin: "http://127.0.0.1:3000", "sec-fetch-site": "same-site" },
    false,
  ],
  ["a change without an origin", "POST", { host: "127.0.0.1:4380" }, false],
  ["a change from a sandboxed page", "PUT", { host: "127.0.0.1:4380", origin: "null" }, false],
  [
    "a cross-site change that claims our origin",
    "DELETE",
    { host: "127.0.0.1:4380", origin: "http://127.0.0.1:4380", "sec-fetch-site": "cross-site" },
    false,
  ],
])("%s", (_what, method, headers, allowed) => {
  expect(ask(method, headers as Record<string, string>) === undefined).toBe(allowed);
});
