/** What became of a file that was sent: the imports that were begun, and what was packed in it and cannot be imported. */
export interface Sent {
  readonly ids: readonly string[];
  readonly left: readonly string[];
}

/** Sends a file as it is, and says how far it is. */
export function sendFile(file: File, onProgress: (sent: number) => void): Promise<Sent> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/imports?name=${encodeURIComponent(file.name)}`);
    request.upload.onprogress = (event) => onProgress(event.loaded);
    request.onerror = () => reject(new Error("The connection was lost."));
    request.onload = () => {
      const answer = JSON.parse(request.responseText || "{}") as Partial<Sent> & {
        readonly problems?: readonly { readonly message: string; readonly hint?: string }[];
      };
      if (request.status === 200 && answer.ids) resolve({ ids: answer.ids, left: answer.left ?? [] });
      else
        reject(
          new Error(
            answer.problems?.map(({ message, hint }) => `${message} ${hint ?? ""}`).join(" ") ??
              `The server returned ${request.status}.`,
          ),
        );
    };
    request.send(file);
  });
}

/** All files of what was dropped, those of folders too. */
export async function filesDropped(items: DataTransferItemList): Promise<readonly File[]> {
  const entries = [...items].flatMap((dropped) => dropped.webkitGetAsEntry() ?? []);
  return (await Promise.all(entries.map(filesOf))).flat();
}

async function filesOf(entry: FileSystemEntry): Promise<readonly File[]> {
  if (entry.isFile)
    return [
      await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject)),
    ];
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const inside: FileSystemEntry[] = [];
  // A folder is read in portions of a hundred or so.
  for (;;) {
    const portion = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (portion.length === 0) break;
    inside.push(...portion);
  }
  return (await Promise.all(inside.map(filesOf))).flat();
}
