/** Kinds of targets in words. */
export const TARGET_WORDS = {
  binary: "yes or no",
  number: "a number",
  classes: "one of several classes",
} as const;

/** What is to be predicted: yes or no, a number, or one of several classes (in the order of their codes, from 0). */
export type Task =
  | { readonly kind: "binary" }
  | { readonly kind: "number" }
  | { readonly kind: "classes"; readonly classes: readonly string[] };

/** The values of one row's features: numbers, or the text (or null) of a category. */
export type FeatureRow = Readonly<Record<string, number | string | null>>;

/** How many numbers a prediction has: the probability of yes, the number, or a probability for each class. */
export const outputsOf = (task: Task): number => (task.kind === "classes" ? task.classes.length : 1);

/** How many classes there are: two for yes and no, none for numbers. */
export const classCount = (task: Task): number => {
  if (task.kind === "number") return 0;
  if (task.kind === "binary") return 2;
  return task.classes.length;
};

/** What a class is called, by its code. */
export const className = (task: Task, code: number): string => {
  if (task.kind === "classes") return task.classes[code] ?? "a class unseen in training";
  if (code === 1) return "positive";
  return "negative";
};

/** Which engine answers a learner's questions. */
export type Engine = "warehouse" | "streaming";

/** The task of a kind of target, with the classes that training has. */
export const taskFor = (kind: Task["kind"], classes: readonly string[] | undefined): Task =>
  kind === "classes" ? { kind, classes: classes ?? [] } : { kind };
