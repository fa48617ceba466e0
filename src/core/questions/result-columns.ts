/** Most columns of one answer: PostgreSQL allows 1,664. */
export const MOST_RESULT_COLUMNS = 1600;

/** A list in parts of at most `size`. */
export function chunks<T>(items: readonly T[], size: number): readonly (readonly T[])[] {
  return Array.from({ length: Math.ceil(items.length / size) }, (_, index) =>
    items.slice(index * size, (index + 1) * size),
  );
}
