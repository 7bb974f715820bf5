import { useState } from "react";

import { call } from "../../api/client";
import type { Job } from "../../api/model";
import type { components } from "../../api/schema";
import { Section } from "../../shared/Section";

type Told = components["schemas"]["Told"];
const WHAT = { changed: "otherwise", added: "more", removed: "not there" } as const;

/** A program from a stick or a machine: is it one that went out, and if not, what is otherwise in it? */
export function IsItOurs({ job }: { job: Job }) {
  const [told, setTold] = useState<Told | null>(null),
    [wrong, setWrong] = useState("");
  const ask = async (file: File) => {
    const form = new FormData();
    form.append("file", file);
    try {
      setTold(await call<Told>(`/jobs/${job.id}/programs/told`, { method: "POST", body: form }));
      setWrong("");
    } catch (e) {
      setTold(null);
      setWrong((e as Error).message);
    }
  };
  return (
    <Section title="Is a program from the machine one of these?">
      <input
        type="file"
        aria-label="Program to be told"
        className="w-full text-small"
        onChange={(e) => {
          if (e.target.files?.[0]) ask(e.target.files[0]);
          e.target.value = "";
        }}
      />
      {wrong && (
        <p role="alert" className="text-small text-stop">
          {wrong}
        </p>
      )}
      {told && (
        <div role="status" className="mt-1 text-small">
          <p className={told.what === "released" && !told.withdrawn ? "" : "text-stop"}>{told.says}.</p>
          <ul>
            {told.lines.slice(0, 40).map((l, i) => (
              <li key={i} className="flex gap-2">
                <span className="label w-20 shrink-0">
                  {WHAT[l.what]} {l.line || l.was}
                </span>
                <span className="num min-w-0 break-all">{l.text}</span>
              </li>
            ))}
          </ul>
          {told.differs > 40 && <p className="label">and {told.differs - 40} more</p>}
        </div>
      )}
    </Section>
  );
}
