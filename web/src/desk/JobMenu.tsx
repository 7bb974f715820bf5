import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { lazy, Suspense, useState } from "react";

import type { DeskJob } from "../api/model";
import { useDeskEdits } from "./useDeskEdits";

const SameAgain = lazy(() => import("./SameAgain"));
const Naming = lazy(() => import("./Naming"));

type Item = [label: string, run: () => void];

/** What can be done with a job as a whole. */
export function JobMenu({ job, place }: { job: DeskJob; place: "desk" | "archive" | "bin" }) {
  const edits = useDeskEdits();
  const [open, setOpen] = useState<"again" | "name" | "burn" | null>(null);
  const put =
    (to: "desk" | "archive" | "bin"): Item[1] =>
    () =>
      edits.put(job, to, place);
  const items: Item[] =
    place === "bin"
      ? [
          ["Put back on the desk", put("desk")],
          ["Delete for good ...", () => setOpen("burn")],
        ]
      : [
          ...(job.kind === "parts"
            ? ([["Same again on new stock ...", () => setOpen("again")]] as Item[])
            : []),
          ["Rename ...", () => setOpen("name")],
          ["Copy", () => edits.more(job, "copy")],
          ["Next version", () => edits.more(job, "version")],
          place === "desk" ? ["Put into the archive", put("archive")] : ["Put back on the desk", put("desk")],
          ["Put into the bin", put("bin")],
        ];
  return (
    <>
      <Menu>
        <MenuButton className="key !px-1.5 !py-0 leading-none" aria-label={`More for ${job.name}`}>
          <span aria-hidden className="num">
            ...
          </span>
        </MenuButton>
        <MenuItems
          anchor={{ to: "bottom end", gap: 3 }}
          className="z-40 border border-ink bg-[#fffdf8] py-1 shadow"
        >
          {items.map(([label, run]) => (
            <MenuItem key={label}>
              <button
                className="block min-h-8 w-full px-3 py-1 text-left data-focus:bg-accent-soft"
                onClick={run}
              >
                {label}
              </button>
            </MenuItem>
          ))}
        </MenuItems>
      </Menu>
      <Suspense fallback={null}>
        {open === "again" && <SameAgain job={job} close={() => setOpen(null)} />}
        {open === "name" && (
          <Naming
            title="Rename the job"
            value={job.name}
            does="Rename"
            onDo={(name) => edits.rename(job, name)}
            close={() => setOpen(null)}
          />
        )}
        {open === "burn" && (
          <Naming
            title={`Delete ${job.name} for good?`}
            says="Its plan and its history are gone then and cannot be brought back. The log of its runs stays."
            does="Delete"
            onDo={() => edits.burn(job)}
            close={() => setOpen(null)}
          />
        )}
      </Suspense>
    </>
  );
}
