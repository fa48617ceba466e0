/** The logical time of runs in tests, and of golden answers. */
export const TEST_NOW = new Date("2026-06-30T12:00:00Z");
