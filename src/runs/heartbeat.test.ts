import { setTimeout as wait } from "node:timers/promises";
import { startHeartbeat } from "./heartbeat";

test("stopping waits for the beat running, and that beat knows that it comes too late", async () => {
  let begin = (): void => undefined;
  let answer = (): void => undefined;
  const begun = new Promise<void>((resolve) => {
    begin = resolve;
  });
  const answered = new Promise<void>((resolve) => {
    answer = resolve;
  });
  const told: boolean[] = [];
  const heart = startHeartbeat(1, async (stopped) => {
    begin();
    await answered;
    told.push(stopped());
  });
  await begun;
  let ended = false;
  const stopping = heart.stop().then(() => {
    ended = true;
  });
  await wait(10);
  expect(ended).toBe(false);
  answer();
  await stopping;
  expect(told).toEqual([true]);
  await wait(10);
  expect(told).toHaveLength(1);
});
