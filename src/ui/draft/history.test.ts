import fc from "fast-check";
import { changed, redone, startHistory, undone, type TextHistory } from "./history";

test("undoing everything and redoing everything comes back to the same text, through the same texts", () => {
  fc.assert(
    fc.property(fc.array(fc.string(), { maxLength: 30 }), (texts) => {
      let history: TextHistory = startHistory("start");
      const seen = [history.text];
      for (const text of texts) {
        history = changed(history, text);
        if (seen.at(-1) !== text) seen.push(text);
      }
      const back = [history.text];
      while (history.past.length > 0) {
        history = undone(history);
        back.push(history.text);
      }
      expect(back.reverse()).toEqual(seen);
      while (history.future.length > 0) history = redone(history);
      expect(history.text).toBe(seen.at(-1));
    }),
  );
});

test("keys typed in a row are undone together, a pause or a whole change parts them", () => {
  let history = changed(startHistory(""), "a", 1000);
  history = changed(history, "ab", 1300);
  history = changed(history, "abc", 9000);
  history = changed(history, "other");
  history = changed(history, "other x", 9200);
  expect(history.past).toEqual(["", "ab", "abc", "other"]);
  expect(undone(undone(history)).text).toBe("abc");
});

test("a change after undoing forgets what was undone", () => {
  const history = changed(undone(changed(changed(startHistory("0"), "1"), "2")), "3");
  expect(history).toMatchObject({ text: "3", past: ["0", "1"], future: [] });
  expect(redone(history)).toBe(history);
});
