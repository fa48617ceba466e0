import { createServer, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { fetchJson } from "./fetch-json";

let server: Server;
let answer: (response: ServerResponse) => void;
const url = (): string => `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
beforeAll((done) => {
  server = createServer((_request, response) => answer(response)).listen(0, "127.0.0.1", done);
});
afterAll((done) => {
  server.close(done);
});

test("a good answer is read; a failure carries the server's words, or its number", async () => {
  answer = (response) => response.end('{"a":1}');
  await expect(fetchJson(url())).resolves.toEqual({ a: 1 });
  answer = (response) =>
    response
      .writeHead(422)
      .end('{"problems":[{"message":"No such step.","hint":"Look again."},{"message":"And more."}]}');
  await expect(fetchJson(url())).rejects.toThrow("No such step. Look again. And more.");
  answer = (response) => response.writeHead(502).end("<html>");
  await expect(fetchJson(url())).rejects.toThrow("The server returned 502.");
});

test("a request given up while its answer comes in has no answer, not an empty one", async () => {
  const stop = new AbortController();
  answer = (response) => {
    response.write('{"a":');
    setTimeout(() => stop.abort(), 50);
  };
  await expect(fetchJson(url(), { signal: stop.signal })).rejects.toThrow(/abort/i);
});
