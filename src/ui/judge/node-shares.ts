import { className, type Task } from "@/core/learn/task";

/** Names of the classes whose shares a node of a tree has, in the order of {@link sharesOf}; none of numbers. */
export function shareNames(task: Task): readonly string[] {
  if (task.kind === "classes") return task.classes;
  return task.kind === "binary" ? [className(task, 1), className(task, 0)] : [];
}

/** Shares of the classes among the rows of a node. @param value what the node says */
export function sharesOf(task: Task, value: readonly number[]): readonly number[] {
  if (task.kind === "classes") return value;
  return task.kind === "binary" ? [value[0]!, 1 - value[0]!] : [];
}
