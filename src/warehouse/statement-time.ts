/** How long a statement of a run may take, in minutes. */
export const statementMinutes = (): number => Number(process.env["RAVLEN_STATEMENT_MINUTES"]) || 120;
