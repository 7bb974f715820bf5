import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call, post } from "../api/client";
import type { Machine } from "../api/model";
import type { components } from "../api/schema";
import { when } from "../shared/when";
import { Line, TextToken } from "./shelf";

type Folder = components["schemas"]["FolderDocument"];

/** Where a machine reads its programs, and what is there for it. */
export function MachineFolder({ m }: { m: Machine }) {
  const client = useQueryClient(),
    key = ["folders"];
  const [wrong, setWrong] = useState("");
  const found = useQuery({ queryKey: key, queryFn: () => call<Folder[]>("/folders") });
  const mine = found.data?.find((f) => f.machine === m.id);
  const set = async (path: string) => {
    try {
      client.setQueryData(
        key,
        await post<Folder[]>(`/machines/${encodeURIComponent(m.id)}/folder`, { path }),
      );
      setWrong("");
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  if (!mine) return null;
  return (
    <>
      <Line what="reads from" near="folder share programs network">
        <TextToken label="folder of its programs" value={mine.path ?? ""} onCommit={set} />
        {!mine.path && <span className="label"> a folder of this computer or of a share</span>}
        {(wrong || mine.wrong) && (
          <span role="alert" className="block text-stop">
            {wrong || mine.wrong}
          </span>
        )}
      </Line>
      {mine.there.length > 0 && (
        <ul aria-label={`Programs in the folder of ${m.name}`} className="text-small">
          {mine.there.map((d) => (
            <li key={d.folder} className="rule flex items-baseline gap-2 py-0.5">
              <span className="label shrink-0">{when(d.made)}</span>
              <span className="min-w-0">
                {d.name}, release {d.release}:{" "}
                <b className="font-semibold">
                  {d.withdrawn
                    ? "withdrawn, do not run"
                    : d.run
                      ? `${d.run} of ${d.sheets} sheets were run`
                      : "new"}
                </b>
                {d.altered.length > 0 && (
                  <span className="block text-stop">altered since: {d.altered.join(", ")}</span>
                )}
                {d.missing.length > 0 && (
                  <span className="block text-stop">not there any more: {d.missing.join(", ")}</span>
                )}
              </span>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
