import { z } from "zod";

const MAIL = "Email needs a recipient, a sender and a server.";
const address = z.union([z.literal(""), z.email("Enter an email address, such as name@example.org.")]);

/** Who hears of alerts: a webhook, mail, both or nobody. */
export const notifySchema = z
  .object({
    webhook: z.union([
      z.literal(""),
      z.url({ protocol: /^https?$/, error: "Enter an address that begins with https:// or http://." }),
    ]),
    to: address,
    from: address,
    server: z.string().regex(/^$|^[^\s:]+:\d{1,5}$/, "Enter a host and a port, such as mail.example.org:25."),
  })
  .superRefine(({ to, from, server }, context) => {
    const mail = { to, from, server };
    const isWished = Object.values(mail).some((part) => part !== "");
    for (const [path, part] of Object.entries(mail))
      if (isWished && part === "") context.addIssue({ code: "custom", path: [path], message: MAIL });
  });

export type NotifyValues = z.infer<typeof notifySchema>;
