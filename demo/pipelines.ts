/** The demo's pipelines, the main one first; their files lie beside this one. */
export const DEMO_PIPELINES = [
  "uncollected-72h",
  "hours-until-collection",
  "arrivals-by-site-day",
  "latch-wear",
  "message-topic",
] as const;
