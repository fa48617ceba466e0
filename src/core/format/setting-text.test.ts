import { namedSettings, settingName, settingText } from "./setting-text";

describe("settings in words", () => {
  it("writes values of every kind without signs of the file", () => {
    expect(["absolute_error", 0.1, [64, 32], true, null, { at_least: 3 }, []].map(settingText)).toEqual([
      "absolute error",
      "0.1",
      "64-32",
      "yes",
      "none",
      "at least 3",
      "",
    ]);
  });

  it("names settings of the algorithm and of steps", () => {
    expect(namedSettings({ least_rows: 20, loss: "squared" })).toEqual(["least rows 20", "loss squared"]);
    expect(settingName({ step: "fill numbers", setting: "with" })).toBe("fill numbers: with");
    expect(settingName({ setting: "learning_rate" })).toBe("learning rate");
  });
});
