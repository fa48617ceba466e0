import type { z } from "zod";
import { failure, problem, ProblemError, success, unwrap, type Problem, type Result } from "@/core/problem";
import { problemsOf } from "@/runs/failure";
import { askingFor } from "@/warehouse/asking";
import { readInput } from "./read-input";

/** Problems as a response. */
export const problemResponse = (problems: readonly Problem[], status = statusOf(problems)): Response =>
  Response.json({ problems }, { status });

const STATUS: Readonly<Record<string, number>> = {
  bad_request: 400,
  unexpected: 500,
  warehouse_lost: 503,
  exports_busy: 503,
};

/** The status that goes with the first of some problems. */
function statusOf([first]: readonly Problem[]): number {
  const code = first?.code ?? "unexpected";
  return STATUS[code] ?? (/^(unknown_|no_rejects)|_gone$/.test(code) ? 404 : 422);
}

/** What does not exist, as an error. */
export const unknown = (
  code: `unknown_${string}` | "holdout_gone" | "no_rejects",
  message: string,
  hint?: string,
): ProblemError => new ProblemError(problem(code, message, hint));

interface Inputs<Params extends z.ZodType, Query extends z.ZodType, Body extends z.ZodType> {
  /** Names in the path. */
  readonly params?: Params;
  readonly query?: Query;
  /** The body, as JSON or as a form. */
  readonly body?: Body;
}

interface Asked<Params extends z.ZodType, Query extends z.ZodType, Body extends z.ZodType> {
  readonly params: z.output<Params>;
  readonly query: z.output<Query>;
  readonly body: z.output<Body>;
  readonly request: Request;
}

type Handler = (
  request: Request,
  context?: { readonly params: Promise<Readonly<Record<string, string>>> },
) => Promise<Response>;

async function bodyOf(request: Request): Promise<Result<unknown>> {
  try {
    const form = /^(multipart\/form-data|application\/x-www-form-urlencoded)/.test(
      request.headers.get("content-type") ?? "",
    );
    return success(form ? Object.fromEntries(await request.formData()) : await request.json());
  } catch {
    return failure(problem("bad_request", "The request could not be read.", "Reload the page."));
  }
}

/**
 * The one way in for requests of data: path, query and body are read by schemas, and whatever is thrown comes back as problems with the
 * status that goes with them. What is given back is sent as JSON, unless it is a response.
 */
export function route<
  Params extends z.ZodType = z.ZodUnknown,
  Query extends z.ZodType = z.ZodUnknown,
  Body extends z.ZodType = z.ZodUnknown,
>(
  { params, query, body }: Inputs<Params, Query, Body>,
  work: (asked: Asked<Params, Query, Body>) => Promise<unknown>,
): Handler {
  return async (request, context) => {
    try {
      const asked = {
        params: params && unwrap(readInput(params, await context?.params)),
        query: query && unwrap(readInput(query, Object.fromEntries(new URL(request.url).searchParams))),
        body: body && unwrap(readInput(body, unwrap(await bodyOf(request)))),
        request,
      } as Asked<Params, Query, Body>;
      // Whoever goes away waits for no answer, and neither shall the warehouse.
      const answer = await askingFor(request.signal, () => work(asked));
      return answer instanceof Response ? answer : Response.json(answer);
    } catch (error) {
      return problemResponse(problemsOf(error));
    }
  };
}
