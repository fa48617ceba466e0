import { askingFor, currentAsker } from "@/warehouse/asking";
import { Remembered } from "./remembered";

/** Work that ends when it is told to, or fails when whoever wants it has gone away. */
function work() {
  let finish: (value: number) => void = () => undefined;
  let begun = 0;
  const make = (): Promise<number> => {
    begun += 1;
    const signal = currentAsker()!;
    return new Promise((resolve, reject) => {
      finish = resolve;
      signal.addEventListener("abort", () => reject(new Error("given up")));
    });
  };
  return { make, finish: (value: number) => finish(value), begun: () => begun };
}

const asking = (remembered: Remembered<number>, stop: AbortController, make: () => Promise<number>) =>
  askingFor(stop.signal, () => remembered.get("rows", make));

test("whoever asks for the same gets it, though the one who asked first has gone away", async () => {
  const [remembered, { make, finish, begun }] = [new Remembered<number>(), work()];
  const [first, second] = [new AbortController(), new AbortController()];
  const answers = [asking(remembered, first, make), asking(remembered, second, make)];
  first.abort();
  finish(7);
  expect(await answers[1]).toBe(7);
  expect(await remembered.get("rows", make)).toBe(7);
  expect(begun()).toBe(1);
});

test("when all have gone away it is given up, and made anew for the next one", async () => {
  const [remembered, { make, finish, begun }] = [new Remembered<number>(), work()];
  const [first, second] = [new AbortController(), new AbortController()];
  const answers = [asking(remembered, first, make), asking(remembered, second, make)];
  first.abort();
  second.abort();
  expect((await Promise.allSettled(answers)).map(({ status }) => status)).toEqual(["rejected", "rejected"]);
  const next = asking(remembered, new AbortController(), make);
  finish(8);
  expect(await next).toBe(8);
  expect(begun()).toBe(2);
});
