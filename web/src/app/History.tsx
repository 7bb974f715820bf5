import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { useEffect, useState } from "react";

import { author, call, setAuthor } from "../api/client";
import type { components } from "../api/schema";
import { moment, when } from "../shared/when";

type Line = components["schemas"]["RevisionLine"];

/** Every change of a job, of parts or of a board, the newest first, with who made it. */
export function History({ id, open, close }: { id: string; open: boolean; close: () => void }) {
  const [lines, setLines] = useState<Line[]>([]);
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
              <li key={l.revision} className="rule flex gap-3 py-1">
                <span className="num w-9 text-right">{l.revision}</span>
                <span className="min-w-0 flex-1">
                  {l.says}
                  {l.author && <span className="label"> {l.author}</span>}
                </span>
                <span className="label num" title={moment(l.made).toLocaleString()}>
                  {when(l.made)}
                </span>
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
    </Dialog>
  );
}
