import { Duties } from "./duties";

const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => setTimeout(resolve, milliseconds));

test("a duty that hangs or fails holds up none of the others, and is said until it is done again", async () => {
  const duties = new Duties();
  let done = 0;
  let hung = 0;
  let broken = true;
  void duties.start({
    what: "hang",
    milliseconds: 5,
    work: () => {
      hung += 1;
      return new Promise(() => undefined);
    },
  });
  void duties.start({
    what: "fail",
    milliseconds: 5,
    work: () => (broken ? Promise.reject(new Error("it broke")) : Promise.resolve()),
  });
  await duties.start({ what: "go on", milliseconds: 5, work: () => Promise.resolve((done += 1)) });
  while (done < 5) await pause(5);
  expect(hung).toBe(1);
  expect(duties.trouble).toBe("fail (it broke)");
  broken = false;
  while (duties.trouble !== null) await pause(5);
  duties.stop();
  const last = done;
  await pause(50);
  expect(done).toBe(last);
});
