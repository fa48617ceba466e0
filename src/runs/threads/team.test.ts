import { sumHistograms, type HistogramArrays, type HistogramTask } from "@/core/learn/memory/histogram";
import { mix } from "@/core/numeric/random";
import { openTeam } from "./team";

const shared = (bytes: number): SharedArrayBuffer => new SharedArrayBuffer(bytes);

test("several threads sum what one does, to the last bit", async () => {
  const rows = 5000;
  const arrays: HistogramArrays = {
    bins: [7, 200, 31].map((bins, column) => { const made = new Uint8Array(shared(rows)); for (let row = 0; row < rows; row += 1) made[row] = mix(row, column) % bins; return made; }),
    order: new Uint32Array(shared(4 * rows)), gradients: new Float64Array(shared(8 * rows)), curvatures: new Float64Array(shared(8 * rows)), counts: new Uint8Array(shared(rows)), classes: new Uint16Array(shared(0)),
  };
  for (let row = 0; row < rows; row += 1) {
    arrays.order[row] = (row * 3) % rows;
    arrays.gradients[row] = (mix(row, 9) % 2001) - 1000;
    arrays.curvatures[row] = mix(row, 8) % 1000;
    arrays.counts[row] = 1;
  }
  const tasks: HistogramTask[] = [0, 1, 2].flatMap((column) => [{ column, from: 0, to: 3000, offset: column * 1200 }, { column, from: 3000, to: rows, offset: column * 1200 + 600 }]);
  const expected = new Float64Array(3600);
  sumHistograms(arrays, tasks, expected, 3, false, false);
  const team = await openTeam(3);
  try {
    const answers = new Float64Array(shared(8 * 3600));
    team.begin(arrays, answers, 3, false);
    for (const once of [false, true]) {
      answers.fill(0);
      await team.run(tasks, once);
      expect([...answers]).toEqual([...expected]);
    }
  } finally {
    await team.close();
  }
});
