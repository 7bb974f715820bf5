import { useQueryClient } from "@tanstack/react-query";
import { createContext, useContext } from "react";

import { call, post } from "../api/client";
import type { DeskJob, JobLine } from "../api/model";

type Place = "desk" | "archive" | "bin";
/** What was done last, and how it is taken back. */
export type Done = { says: string; bad?: boolean; back?: () => void } | null;
export const DoneContext = createContext<(done: Done) => void>(() => {});
const WHERE = { desk: "on the desk", archive: "in the archive", bin: "in the bin" };

/** What is done with whole jobs; each says what was done, and can be taken back where it can. */
export function useDeskEdits() {
  const client = useQueryClient(),
    say = useContext(DoneContext);
  const read = () => client.invalidateQueries({ queryKey: ["desk"] });
  const failed = (e: Error) => say({ says: e.message, bad: true });
  const place = (id: string, to: Place) =>
    call(`/jobs/${id}/place`, {
      method: "PUT",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ place: to }),
    });
  const put = (job: DeskJob, to: Place, from: Place) => {
    place(job.id, to)
      .then(() => {
        read();
        say({
          says: `${job.name} lies ${WHERE[to]}.`,
          back: () =>
            place(job.id, from)
              .then(() => {
                read();
                say({ says: `${job.name} lies ${WHERE[from]} again.` });
              })
              .catch(failed),
        });
      })
      .catch(failed);
  };
  const more = (job: DeskJob, how: "copy" | "version") =>
    post<JobLine>(`/jobs/${job.id}/once-more`, { how })
      .then((made) => {
        read();
        say({
          says: `${made.name} lies on the desk.`,
          back: () => {
            place(made.id, "bin")
              .then(() => {
                read();
                say({ says: `${made.name} lies in the bin.` });
              })
              .catch(failed);
          },
        });
      })
      .catch(failed);
  const rename = async (job: DeskJob, name: string) => {
    await post(`/jobs/${job.id}/commands`, { base: job.revision, command: { kind: "rename-job", name } });
    read();
    say({
      says: `${job.name} is called ${name} now.`,
      back: () => {
        post(`/jobs/${job.id}/undo`)
          .then(() => {
            read();
            say({ says: `It is called ${job.name} again.` });
          })
          .catch(failed);
      },
    });
  };
  const burn = async (job: DeskJob) => {
    await call(`/jobs/${job.id}`, { method: "DELETE" });
    read();
    say({ says: `${job.name} is deleted.` });
  };
  return { put, more, rename, burn };
}
