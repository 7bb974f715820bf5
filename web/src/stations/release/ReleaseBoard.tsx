import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import type { Job, Setup } from "../../api/model";
import { TabRow } from "../../shared/TabRow";

/** The programs as text, as they would go to the machine. */
export function ReleaseBoard({ job, setup }: { job: Job; setup: Setup }) {
  const files = setup.release.files;
  const [name, setName] = useState(files[0]?.name ?? "");
  useEffect(() => {
    if (!files.some((f) => f.name === name)) setName(files[0]?.name ?? "");
  }, [files, name]);
  const text = useQuery({
    queryKey: ["program", job.id, job.revision, name],
    enabled: !!name,
    staleTime: Infinity,
    queryFn: async () => (await fetch(`/api/jobs/${job.id}/files/${name}?look=true`)).text(),
  });
  if (!files.length)
    return (
      <p className="grid h-full place-items-center text-quiet">
        Nest the pieces; the programs follow by themselves.
      </p>
    );
  const lines = (text.data ?? "").split("\n");
  return (
    <div className="flex h-full flex-col p-3">
      <TabRow
        label="Programs"
        tabs={files.map((f) => [f.name, f.name] as const)}
        value={name}
        onPick={setName}
        className="mb-2"
      />
      <pre
        className="num min-h-0 flex-1 overflow-auto border border-line bg-paper p-3 text-small leading-[1.45]"
        role="region"
        tabIndex={0}
        aria-label="Program text"
        data-testid="program"
      >
        {lines.slice(0, 400).join("\n")}
        {lines.length > 400 ? `\n... ${lines.length - 400} more lines in the file` : ""}
      </pre>
    </div>
  );
}
