"use client";
import { useRouter } from "next/navigation";
import { guideStops } from "./guide-stops";
import { useGuide } from "./use-guide";

/** What the path through the demo leads to. */
export interface GuideGoal {
  readonly pipeline: string;
  readonly model: number | null;
}

/** The stop that one is at, on every page, as long as the path is open. */
export function GuideBar({ goal }: { readonly goal: GuideGoal }) {
  const router = useRouter();
  const [place, put] = useGuide();
  if (!place?.open) return null;
  const stops = guideStops(goal.pipeline, goal.model);
  const stop = stops[place.stop];
  if (!stop) return null;
  const next = stops[place.stop + 1];
  const go = (number: number): void => {
    put({ stop: number, open: true });
    router.push(stops[number]!.href);
  };
  return (
    <aside
      aria-label="Tour"
      data-tour
      className="flex h-(--tour) items-center gap-4 border-b border-rule bg-paper px-5 text-caption leading-tight"
    >
      <b className="shrink-0 whitespace-nowrap">
        Tour, {place.stop + 1} of {stops.length}: {stop.title}
      </b>
      <span className="min-w-0 flex-1">{stop.says}</span>
      <span className="flex shrink-0 gap-2">
        {place.stop > 0 && (
          <button type="button" className="press py-0" onClick={() => go(place.stop - 1)}>
            Back
          </button>
        )}
        {next ? (
          <button type="button" className="press py-0" onClick={() => go(place.stop + 1)}>
            Next: {next.title}
          </button>
        ) : (
          <button type="button" className="press py-0" onClick={() => put(undefined)}>
            Done
          </button>
        )}
        <button
          type="button"
          className="press press-quiet py-0"
          onClick={() => put({ ...place, open: false })}
        >
          Leave
        </button>
      </span>
    </aside>
  );
}

/** The way onto the path, or back onto it. */
export function GuideStart({ goal }: { readonly goal: GuideGoal }) {
  const router = useRouter();
  const [place, put] = useGuide();
  if (place?.open) return null;
  const stops = guideStops(goal.pipeline, goal.model);
  const number = place?.stop ?? 0;
  const begin = (stop: number): void => {
    put({ stop, open: true });
    router.push(stops[stop]!.href);
  };
  return (
    <p className="mb-5 flex flex-wrap items-baseline gap-3">
      <span>New here? A six-stop tour follows one pipeline from table to schedule.</span>
      <button type="button" className="press py-0.5" onClick={() => begin(number)}>
        {place ? `Resume the tour at ${number + 1}: ${stops[number]!.title}` : "Start the tour"}
      </button>
      {place && (
        <button type="button" className="press press-quiet py-0.5" onClick={() => begin(0)}>
          Restart
        </button>
      )}
    </p>
  );
}
