/** One stop of the short path through the demo. */
export interface GuideStop {
  readonly title: string;
  readonly href: string;
  readonly says: string;
}

/** The six stops, along the one loop. @param model the version in service, where there is one */
export function guideStops(pipeline: string, model: number | null): readonly GuideStop[] {
  const stage = (name: string): string => `/pipelines/${encodeURIComponent(pipeline)}/${name}`;
  return [
    {
      title: "The table",
      href: "/tables/larkmere/parcels",
      says: "Everything begins with a table. Its profile shows gaps and values; “Against a target” shows which columns say something of an answer, and which say too much.",
    },
    {
      title: "The Braid",
      href: stage("braid"),
      says: "Columns are threads, steps cross them. Choose a step above to see its settings and the rows after it; what a step learns, it learns on training rows only.",
    },
    {
      title: "Training",
      href: stage("train"),
      says: "Roles, which rows judge, and the candidates. “Train” fits one of them in the warehouse; every trial is kept with its settings and its figures.",
    },
    {
      title: "Judgement",
      href: model === null ? stage("compare") : `/models/${model}`,
      says: "How good the version is on rows that it never saw, where it errs, and why it decides as it does. Put it in service when it is good enough.",
    },
    {
      title: "Delivery",
      href: stage("deliver"),
      says: "Predictions land in a table, completely or not at all. A contract stops a night whose rows are not like those of training; “Truth against promise” holds them against the answers.",
    },
    {
      title: "The schedule",
      href: "/",
      says: "Today shows what was due and what is next. Let the demo’s clock run a few days from the top bar, and see the nights do their work.",
    },
  ];
}
