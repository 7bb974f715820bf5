import { useQuery } from "@tanstack/react-query";

import { call } from "../api/client";
import { Choice } from "../shared/Tokens";
import type { HouseRules } from "./ofRules";
import { Line, TextToken } from "./shelf";

type Of = { rules: HouseRules; set: (f: HouseRules) => Promise<boolean> };

/** What files are called, and how the setup sheet is printed. */
export function ReleaseRules({ of: { rules, set } }: { of: Of }) {
  const pattern = String(rules.file_names ?? "");
  const words = useQuery({
    queryKey: ["file name words"],
    queryFn: () => call<Record<string, string>>("/file-names/words"),
    staleTime: Infinity,
  });
  const shown = useQuery({
    queryKey: ["file names", pattern],
    queryFn: () => call<string[]>(`/file-names/shown?pattern=${encodeURIComponent(pattern)}`),
    placeholderData: (was) => was,
    retry: false,
  });
  const about = Object.entries(words.data ?? {}).map(([w, says]) => `{${w}} ${says}`);
  return (
    <>
      <Line what="files are called" near="file names pattern program release">
        <TextToken
          label="file names"
          value={pattern}
          onCommit={async (file_names) => {
            if (!(await set({ file_names })))
              throw new Error("not a pattern; see the words over the library");
          }}
        />
        <span className="label block" data-testid="file-names-shown">
          {shown.data?.join(", ")}
        </span>
        <details className="text-small">
          <summary className="label cursor-pointer">words in braces</summary>
          <ul>
            {about.map((a) => (
              <li key={a}>{a}</li>
            ))}
          </ul>
        </details>
      </Line>
      <Line what="setup sheets are" near="papers print">
        <Choice
          label="how setup sheets are printed"
          value={String(rules.setup_sheets ?? "step by step")}
          options={[
            ["step by step", "step by step, with boxes to tick"],
            ["one page a sheet", "on one page a sheet, for one who plans and cuts"],
          ]}
          onPick={(setup_sheets) => set({ setup_sheets })}
        />
      </Line>
    </>
  );
}
