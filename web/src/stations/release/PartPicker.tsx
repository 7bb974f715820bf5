import type { Job, Setup } from "../../api/model";
import { partsIn } from "../../job/partsIn";
import { useJobView } from "../../job/view";
import { Pick } from "../../shared/Pick";
import { many } from "../../shared/many";
import { ALL, isWhole, type Picked, type ReleaseState } from "./useReleases";

type Props = {
  job: Job;
  setup: Setup;
  picked: Picked;
  onPick: (p: Picked) => void;
  state?: ReleaseState;
};

/** Which part of the job goes out, as a sentence. */
export function PartPicker({ job, setup, picked, onPick, state }: Props) {
  const { chosen } = useJobView();
  const set = (fields: Partial<Picked>) => {
    const next = { ...picked, ...fields };
    for (const k of Object.keys(next) as (keyof Picked)[]) if (next[k] == null) delete next[k];
    onPick(next);
  };
  const cutters = setup.cutters.filter((c) => setup.cutters_used.includes(c.id));
  const kinds = [...new Set(setup.sheets.flatMap((s) => s.cuts.map((c) => c.kind)))];
  const parts = partsIn(job, setup).filter((p) => p.quantity);
  const spoilt = state?.sheets.reduce((n, s) => n + s.spoilt.length, 0) ?? 0;
  const one = (ids: readonly string[] | null | undefined) => (ids?.length === 1 ? ids[0] : "");
  return (
    <p className="leading-7" aria-label="What goes out" role="group">
      <b className="font-semibold">Goes out:</b>{" "}
      <Pick
        label="of what went out before"
        value={picked.which}
        options={[
          ["left over and changed", "what is left over, and what was changed and not run"],
          ["left over", "only what is left over"],
          ["everything", "everything, also what went out before"],
          ...(spoilt || picked.which === "spoilt"
            ? [["spoilt", `${many(spoilt, "spoilt piece")} again, on a fresh sheet`] as const]
            : []),
        ]}
        onPick={(which) => set({ which })}
      />
      ,{" "}
      <Pick
        label="side"
        value={picked.side ?? "both"}
        options={[
          ["both", "insides and outlines"],
          ["insides", "insides only"],
          ["outlines", "outlines only"],
        ]}
        onPick={(v) => set({ side: v === "both" ? undefined : v })}
      />
      {cutters.length > 1 && (
        <>
          , by{" "}
          <Pick
            label="cutter that goes out"
            value={one(picked.cutters)}
            options={[
              ["", "every cutter"],
              ...cutters.map((c): [string, string] => [c.id, `T${c.number} ${c.name}`]),
            ]}
            onPick={(v) => set({ cutters: v ? [v] : undefined })}
          />
        </>
      )}
      {kinds.length > 1 && (
        <>
          ,{" "}
          <Pick
            label="operation that goes out"
            value={one(picked.operations)}
            options={[["", "every operation"], ...kinds.map((k): [string, string] => [k, `${k} only`])]}
            onPick={(v) =>
              set({
                operations: v ? ([v] as Picked["operations"]) : undefined,
              })
            }
          />
        </>
      )}
      {parts.length > 1 && (
        <>
          , of{" "}
          <Pick
            label="part that goes out"
            value={one(picked.parts)}
            options={[["", "every part"], ...parts.map((p): [string, string] => [p.id, p.name])]}
            onPick={(v) => set({ parts: v ? [v] : undefined })}
          />
        </>
      )}
      {picked.sheets && <>, on {many(picked.sheets.length, "sheet")}</>}
      {picked.pieces ? (
        <>
          , {many(picked.pieces.length, "piece")} picked on the table{" "}
          <button className="key !py-0" onClick={() => set({ pieces: undefined })}>
            all pieces
          </button>
        </>
      ) : (
        chosen.length > 0 && (
          <>
            {" "}
            <button className="key !py-0" onClick={() => set({ pieces: chosen })}>
              only the {many(chosen.length, "chosen piece")}
            </button>
          </>
        )
      )}
      {!isWhole(picked) && (
        <>
          {" "}
          <button className="key !py-0" onClick={() => onPick(ALL)}>
            the whole job
          </button>
        </>
      )}
    </p>
  );
}
