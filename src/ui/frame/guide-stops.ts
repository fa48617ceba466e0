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
      says: "A pipeline starts from a table. Its profile shows missing values and distributions; “Against a target” shows how well each column predicts a target, and which columns may leak it.",
    },
    {
      title: "The Braid",
      href: stage("braid"),
      says: "Columns are threads, and steps cross them. Choose a step to see its settings and the rows after it. Steps learn values from training rows only.",
    },
    {
      title: "Training",
      href: stage("train"),
      says: "Column roles, validation and candidates. “Train” fits a candidate in the warehouse; every trial is stored with its settings and metrics.",
    },
    {
      title: "Evaluation",
      href: model === null ? stage("compare") : `/models/${model}`,
      says: "How good the version is on unseen rows, where it errs, and which features drive it. Put it in service when it is good enough.",
    },
    {
      title: "Delivery",
      href: stage("deliver"),
      says: "Predictions land in a table completely or not at all. A contract stops a delivery whose rows differ from training; “Live against holdout” compares predictions with what happened.",
    },
    {
      title: "The schedule",
      href: "/",
      says: "Today shows scheduled and upcoming runs. Advance the demo clock from the top bar to watch the schedules run.",
    },
  ];
}
