import { capturingGroups } from "./texts";

test.each([
  ["parcel ([0-9]+)", 1],
  ["(a)(?:b)(?=c)(d(e))", 3],
  [String.raw`\(not\) (this)`, 1],
  ["[(] and []( ] and [^](](x)", 1],
  ["([[:alpha:]])(['\"].*)", 2],
  ["[[.(.]](x)[[=(=]]", 1],
  ["***=(literal)", 0],
  ["(?i)(x)", 1],
])("%s has %d capturing brackets", (pattern, groups) => {
  expect(capturingGroups(pattern)).toBe(groups);
});
