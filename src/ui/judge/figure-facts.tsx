import { noteSentences } from "@/core/evaluate/figure-notes";
import type { Judgement } from "@/core/evaluate/judgement";
import type { Task } from "@/core/learn/task";

/** What a reader of the figures must know beside them. */
export function FigureFacts({
  task,
  judgement,
  weight,
}: {
  readonly task: Task;
  readonly judgement: Judgement;
  readonly weight: string | undefined;
}) {
  const facts = [
    ...noteSentences(task, judgement),
    ...(judgement.noIntervals ? [`No intervals: ${judgement.noIntervals}`] : []),
    ...(weight !== undefined && judgement.unweighted
      ? [`Rows are weighted by “${weight}”; unweighted metrics are shown too.`]
      : []),
  ];
  if (facts.length === 0) return null;
  return (
    <ul className="-mt-6 list-none space-y-0.5 text-caption text-faded" data-testid="figure-facts">
      {facts.map((fact) => (
        <li key={fact}>{fact}</li>
      ))}
    </ul>
  );
}
