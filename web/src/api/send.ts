import { asProblem, AWAY, Problem, type Schemas } from "./client";

/** Send a file with progress; resolves with the new plan. */
export async function sendFile(
  file: File,
  progress: (share: number) => void,
  signal: AbortSignal,
  thin = false,
): Promise<Schemas["Imported"]> {
  // The first kilobyte goes ahead: two gigabytes of zeros are refused before they travel.
  const judged = await fetch(`/api/figures/judge?size=${file.size}&thin=${thin}`, {
    method: "POST",
    body: await file.slice(0, 1024).arrayBuffer(),
  }).catch(() => null);
  if (!judged) throw AWAY;
  if (!judged.ok) throw asProblem(await judged.json().catch(() => undefined));
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/figures?name=${encodeURIComponent(file.name)}&thin=${thin}`);
    request.upload.onprogress = (e) => e.lengthComputable && progress(e.loaded / e.total);
    request.onload = () => {
      let body: unknown = null;
      try {
        body = JSON.parse(request.responseText);
      } catch {
        // an answer that is no JSON is none of ours
      }
      if (request.status === 200 && body) resolve(body as Schemas["Imported"]);
      else reject(asProblem(body));
    };
    request.onerror = () => reject(AWAY);
    request.onabort = () =>
      reject(new Problem("cancelled", "The upload was cancelled.", "Nothing was kept."));
    signal.addEventListener("abort", () => request.abort());
    request.send(file);
  });
}
