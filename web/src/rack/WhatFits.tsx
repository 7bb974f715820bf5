import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call } from "../api/client";
import type { Job } from "../api/model";
import { useJobs } from "../api/queries";
import { Pick } from "../shared/Pick";
import { LengthField } from "../shared/lengths";
import type { FitLine } from "./rack";

/** What was asked, how large its box is, and where it fits. */
export type Asked = { width: number; height: number; outline?: string; found: FitLine[] };

/** "What would this fit in?": a size, or a part of a job, asked of the whole rack. */
export function WhatFits({ onFound }: { onFound: (a: Asked | null) => void }) {
  const jobs = useJobs("parts").data ?? [];
  const [width, setWidth] = useState(600),
    [height, setHeight] = useState(400),
    [job, setJob] = useState(""),
    [part, setPart] = useState(""),
    [said, setSaid] = useState("");
  const parts =
    useQuery({ queryKey: ["job", job], queryFn: () => call<Job>(`/jobs/${job}`), enabled: !!job }).data
      ?.parts ?? [];
  const chosen = parts.find((p) => p.id === part) ?? parts[0];
  const ask = async () => {
    try {
      const path = job
        ? `job=${encodeURIComponent(job)}&part=${encodeURIComponent(chosen?.id ?? "")}`
        : `width=${width}&height=${height}`;
      const found = await call<FitLine[]>(`/rack/fits?${path}`);
      const n = found.length;
      setSaid(
        n
          ? `fits in ${n} lot${n === 1 ? "" : "s"}, the smallest remnant first`
          : "fits in nothing that is free",
      );
      onFound({
        width,
        height,
        found,
        outline: job ? chosen?.contours.map((c) => c.d).join("") : undefined,
      });
    } catch (e) {
      setSaid((e as Error).message);
    }
  };
  return (
    <section aria-label="What would this fit in" className="border border-line bg-paper p-3">
      <h2 className="font-semibold">What would this fit in?</h2>
      <div className="mt-1 flex flex-wrap gap-1.5">
        <Pick
          label="what is to fit"
          value={job}
          options={[["", "a size"], ...jobs.map((j): [string, string] => [j.id, `a part of ${j.name}`])]}
          onPick={(j) => {
            setJob(j);
            setPart("");
          }}
        />
        {job && parts.length > 0 && (
          <Pick
            label="part that is to fit"
            value={chosen?.id ?? ""}
            options={parts.map((p): [string, string] => [p.id, p.name])}
            onPick={setPart}
          />
        )}
      </div>
      {!job && (
        <>
          <LengthField label="width" mm={width} onCommit={setWidth} />
          <LengthField label="height" mm={height} onCommit={setHeight} />
        </>
      )}
      <div className="mt-1 flex gap-1.5">
        <button className="key-strong" onClick={ask} disabled={!!job && !chosen}>
          Look
        </button>
        <button
          className="key"
          onClick={() => {
            setSaid("");
            onFound(null);
          }}
        >
          Show all
        </button>
      </div>
      {said && (
        <p role="status" className="label mt-1">
          {said}
        </p>
      )}
    </section>
  );
}
