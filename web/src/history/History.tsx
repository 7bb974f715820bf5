import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { lazy, Suspense, useEffect, useState } from "react";

import { author, call, setAuthor } from "../api/client";
import type { components } from "../api/schema";
import { moment, when } from "../shared/when";

const SideBySide = lazy(() => import("./SideBySide"));
export type Line = components["schemas"]["RevisionLine"];

/** Every change of a job, of parts or of a board, the newest first, with who made it. */
export function History({
  id,
  open,
  close,
  onBack,
}: {
  id: string;
  open: boolean;
  close: () => void;
  /** Make the job as it was at a revision. */
  onBack?: (revision: number) => Promise<unknown>;
}) {
  const [lines, setLines] = useState<Line[]>([]),
    [beside, setBeside] = useState<number | null>(null);
  const newest = lines[0]?.revision;
  useEffect(() => {
    if (!open) return;
    call<Line[]>(`/jobs/${id}/history`)
      .then(setLines)
      .catch(() => setLines([]));
  }, [open, id]);
  const oldest = lines.at(-1)?.revision ?? 1;
  const older = () =>
    call<Line[]>(`/jobs/${id}/history?before=${oldest}`)
      .then((more) => setLines((now) => [...now, ...more]))
      .catch(() => {});
  return (
    <Dialog open={open} onClose={close} className="relative z-40">
      <div className="fixed inset-y-0 right-0 w-[420px] max-w-full">
        <DialogPanel className="flex h-full flex-col border-l-2 border-ink bg-paper p-4">
          <div className="flex items-baseline justify-between">
            <DialogTitle className="text-figure font-semibold">History</DialogTitle>
            <button className="key" onClick={close}>
              Close
            </button>
          </div>
          <p className="label">Every change, the newest first. Undo adds to it; nothing is erased.</p>
          <label className="label mt-1 flex items-baseline gap-2">
            Your name, beside what you change{" "}
            <input
              className="field min-w-0 flex-1"
              defaultValue={author()}
              maxLength={80}
              placeholder="not said"
              onChange={(e) => setAuthor(e.target.value)}
            />
          </label>
          <ol className="mt-2 min-h-0 flex-1 overflow-auto">
            {lines.map((l) => (
              <li key={l.revision} className="rule flex items-center gap-3 py-1">
                <span className="num w-9 text-right">{l.revision}</span>
                <img
                  src={`/api/jobs/${id}/history/${l.revision}/picture`}
                  alt=""
                  loading="lazy"
                  className="h-11 w-20 shrink-0 object-contain"
                />
                <span className="min-w-0 flex-1">
                  {l.says}
                  {l.author && <span className="label"> {l.author}</span>}
                  <span className="label num block" title={moment(l.made).toLocaleString()}>
                    {when(l.made)}
                  </span>
                </span>
                {l.revision !== newest && (
                  <button
                    className="key !px-2 !py-0 text-small"
                    aria-label={`Compare change ${l.revision} with now`}
                    onClick={() => setBeside(l.revision)}
                  >
                    Compare
                  </button>
                )}
              </li>
            ))}
            {oldest > 1 && (
              <li className="py-2">
                <button className="key" onClick={older}>
                  Older changes
                </button>
              </li>
            )}
          </ol>
        </DialogPanel>
      </div>
      {beside !== null && newest && (
        <Suspense fallback={null}>
          <SideBySide
            job={id}
            older={beside}
            newer={newest}
            lines={lines}
            close={() => setBeside(null)}
            onBack={
              onBack &&
              (async (revision) => {
                await onBack(revision);
                setBeside(null);
                close();
              })
            }
          />
        </Suspense>
      )}
    </Dialog>
  );
}
