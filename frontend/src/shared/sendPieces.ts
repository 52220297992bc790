import type { DetailedError } from "tus-js-client";

import type { Send } from "../ui/useSend";

const PIECE = 4 * 1024 * 1024;
/** Waits before going on after a broken connection, ms. */
const RETRIES = [0, 1000, 2000, 4000, 8000, 15_000, 30_000, 60_000];

/**
 * Send a clip in pieces to `endpoint`; `said` goes with it. One that broke off goes on where it stopped.
 *
 * What this sends with is fetched when it is needed, and not before the page is read.
 */
export const sendPieces =
  (endpoint: string, said: Record<string, string> = {}): Send =>
  async (file, onShare, stop) => {
    const { Upload } = await import("tus-js-client");
    await new Promise<void>((resolve, reject) => {
      let share = 0;
      const upload = new Upload(file, {
        endpoint,
        chunkSize: PIECE,
        retryDelays: RETRIES,
        metadata: { ...said, filename: file.name, page: endpoint },
        removeFingerprintOnSuccess: true,
        onProgress: (sent, of) => {
          share = of ? sent / of : 0;
          onShare(share, false);
        },
        onShouldRetry: (error) => {
          const status = error.originalResponse?.getStatus() ?? 0;
          const again =
            status === 0 || status === 423 || status === 409 || status === 429 || (status >= 500 && status !== 507);
          if (again) onShare(share, true);
          return again;
        },
        onSuccess: () => resolve(),
        onError: (error) => reject(new Error(refused(error))),
      });
      stop.addEventListener("abort", () => {
        void upload.abort().then(() => reject(new Error("Stopped. Choose the same file again to go on from there.")));
      });
      void upload.findPreviousUploads().then((earlier) => {
        const mine = earlier.find((u) => u.metadata.page === endpoint);
        if (mine) upload.resumeFromPreviousUpload(mine);
        upload.start();
      });
    });
  };

function refused(error: Error | DetailedError): string {
  const answer = "originalResponse" in error ? error.originalResponse : null;
  if (!answer) return "There is no connection. What was sent is kept: choose the same file again to go on.";
  try {
    return (JSON.parse(answer.getBody()) as { problem: string }).problem;
  } catch {
    return "The clip could not be sent. Choose it again to go on.";
  }
}
