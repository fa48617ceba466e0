import type { Page } from "@playwright/test";

const [ROWS, COLUMNS, ROUNDS] = [150, 8, 2_000_000];
/** The least milliseconds that {@link timeOfWork} took on a machine with two shared processors. */
const AT_REST = 30;

/** Milliseconds of the same work every time: a table is built, laid out and removed, and numbers are reckoned. */
const timeOfWork = (page: Page): Promise<number> =>
  page.evaluate(
    ([rows, columns, rounds]) => {
      const start = performance.now();
      const table = document.createElement("table");
      for (let row = 0; row < rows; row += 1) {
        const line = table.insertRow();
        for (let column = 0; column < columns; column += 1)
          line.insertCell().textContent = String(row * columns + column);
      }
      document.body.append(table);
      table.getBoundingClientRect();
      for (let round = 0, last = 0; round < rounds; round += 1) last = (last * 31 + round) % 1_000_003;
      table.remove();
      return performance.now() - start;
    },
    [ROWS, COLUMNS, ROUNDS] as const,
  );

/** How many times slower than at rest the machine is now; 1 or more. */
export const slownessNow = async (page: Page): Promise<number> =>
  Math.max(1, (await timeOfWork(page)) / AT_REST);
