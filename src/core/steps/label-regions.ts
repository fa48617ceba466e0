import { z } from "zod";
import { insideExpression } from "../expression/region";
import { allOf, asDouble, column, isNotNull, text } from "../expression/ast";
import { problem } from "../problem";
import { withColumns } from "../relation/relation";
import { checkNewName, ofFamily, typedNull } from "./shared";
import { changed, defineStep, listNames, stepCommon, type StepKind } from "./step";

const point = z.tuple([z.number(), z.number()]);

/** Whether all corners lie on one line. */
function isFlat(points: readonly (readonly [number, number])[]): boolean {
  const [x, y] = points[0]!;
  const other = points.find((point) => point[0] !== x || point[1] !== y);
  return (
    !other || points.every((point) => (point[0] - x) * (other[1] - y) === (point[1] - y) * (other[0] - x))
  );
}

export const labelRegionsStep: StepKind = defineStep({
  kind: "label_regions",
  title: "Label by region",
  help: {
    about:
      "Labels rows by regions drawn over two columns. The regions are stored in the file, so new rows are labelled the same way.",
    words: ["label", "annotate", "draw", "area", "target"],
    missing: "A row with a missing coordinate has no label.",
    example:
      "x: cycles\ny: force_n\nregions:\n  - {label: worn, points: [[8000, 10], [14000, 10], [14000, 20], [8000, 20]]}\notherwise: good\ninto: state",
  },
  settings: z.strictObject({
    do: z.literal("label_regions"),
    ...stepCommon,
    x: z.string().min(1).describe("The number column on the horizontal axis."),
    y: z.string().min(1).describe("The number column on the vertical axis."),
    colour: z
      .string()
      .min(1)
      .optional()
      .describe("The column that colours the points while drawing; it does not affect the labels."),
    regions: z
      .array(
        z.strictObject({
          label: z.string().min(1),
          points: z.array(point).min(3).max(500).describe("Corners of the region as [x, y], in order."),
        }),
      )
      .min(1)
      .describe("Regions with their labels. Where they overlap, the first applies."),
    otherwise: z
      .string()
      .min(1)
      .optional()
      .describe(
        "Label of points outside all regions. Missing if omitted. Points with a missing coordinate have no label.",
      ),
    into: z.string().min(1).default("label").describe("The new column."),
  }),
  sentence: (settings) =>
    `label ${listNames([...new Set(settings.regions.map((region) => region.label))])} by ${settings.x} and ${settings.y}`,
  check: (settings, context) => {
    const found = [
      ...ofFamily(context, [settings.x], ["x"], "number", "drawn"),
      ...ofFamily(context, [settings.y], ["y"], "number", "drawn"),
    ];
    if (settings.colour !== undefined) context.column(settings.colour, ["colour"]);
    checkNewName(context, settings.into, ["into"]);
    settings.regions.forEach((region, index) => {
      if (isFlat(region.points))
        context.report(
          problem(
            "flat_region",
            `The region "${region.label}" has no area.`,
            "Draw at least three corners that are not on one line.",
          ),
          ["regions", index, "points"],
        );
    });
    const written = context.written(
      settings.into,
      { type: "text", nullable: settings.otherwise === undefined || found.some((column) => column.nullable) },
      found,
    );
    return {
      output: changed(context.input, [written]),
      reads: [settings.x, settings.y],
      writes: [settings.into],
      drops: [],
    };
  },
  apply: (settings, input) => {
    const [x, y] = [asDouble(column(settings.x)), asDouble(column(settings.y))];
    const inside = settings.regions.map((region) => ({
      when: insideExpression(region.points, x, y),
      then: text(region.label),
    }));
    const labelled = {
      kind: "case" as const,
      branches: inside,
      otherwise: settings.otherwise === undefined ? typedNull("text") : text(settings.otherwise),
    };
    return withColumns(input, [
      {
        name: settings.into,
        expression: {
          kind: "case",
          branches: [
            { when: allOf([isNotNull(column(settings.x)), isNotNull(column(settings.y))]), then: labelled },
          ],
        },
      },
    ]);
  },
});
