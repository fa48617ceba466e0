import { z } from "zod";
import { nameInput } from "@/server/answer/inputs";
import { route, unknown } from "@/server/answer/route";
import { askDraft } from "@/server/draft-questions";

/** Questions about a draft: the text as it stands in the browser comes along. Saves nothing. */
export const POST = route(
  { params: z.object({ question: nameInput }), body: z.unknown() },
  async ({ params, body }) => {
    const answered = await askDraft(params.question, body);
    if (!answered) throw unknown("unknown_question", "Question not found.");
    return answered.answer;
  },
);
