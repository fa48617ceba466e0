import fc from "fast-check";
import { changed, redone, restored, startHistory, storable, undone, type TextHistory } from "./history";

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

const texts = fc.array(fc.string({ minLength: 1, maxLength: 20 }), { maxLength: 20 });

test("a history comes back as it was kept, and what changed meanwhile can be undone as well", () => {
  fc.assert(
    fc.property(fc.string(), texts, texts, fc.string(), (text, past, future, now) => {
      const history: TextHistory = { text, past, future };
      const kept: unknown = JSON.parse(JSON.stringify({ ...storable(history), saved: text }));
      expect(restored(kept, text)).toMatchObject({ text, past, future });
      const found = restored(kept, now);
      expect(found.text).toBe(now);
      expect(now === text ? text : undone(found).text).toBe(text);
    }),
  );
});

test("what was not saved before a reload goes on, unless the server has another text by then", () => {
  const edited = changed(startHistory("saved"), "edited");
  const kept = { ...storable(edited), saved: "saved" };
  expect(restored(kept, "saved")).toMatchObject({ text: "edited", past: ["saved"] });
  expect(restored(kept, "of another tab")).toMatchObject({
    text: "of another tab",
    past: ["saved", "edited"],
  });
});

test("of a long history what is nearest to now is kept, and never more than there is room for", () => {
  fc.assert(
    fc.property(texts, texts, fc.integer({ min: 0, max: 200 }), (past, future, most) => {
      const kept = storable({ text: "", past, future }, most);
      expect(past.slice(past.length - kept.past.length)).toEqual(kept.past);
      expect(future.slice(0, kept.future.length)).toEqual(kept.future);
      expect([...kept.past, ...kept.future].join("").length).toBeLessThanOrEqual(most);
    }),
  );
});

test.each([[null], ["text"], [{ text: 1, past: [], future: [] }], [{ text: "a", past: [2], future: [] }]])(
  "what a tab holds otherwise (%j) is no history",
  (kept) => expect(restored(kept, "now")).toEqual(startHistory("now")),
);
