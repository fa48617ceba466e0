/** Memory that the process which reads files may have, in megabytes. */
export const importMegabytes = (): number => Number(process.env["RAVLEN_IMPORT_MB"]) || 1024;
