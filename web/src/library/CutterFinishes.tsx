import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call } from "../api/client";
import { clock, type FinishLine, type Library } from "../api/model";
import type { components } from "../api/schema";
import { Pick } from "../shared/Pick";
import { when } from "../shared/when";
import { FinishTable, finishSaid } from "../stations/log/Finishes";

type RunEdge = components["schemas"]["RunEdge"];

/** What edges looked like that this cutter left, on any job: single ones, and those of whole runs; by material. */
export function CutterFinishes({ cutter }: { cutter: string }) {
  const [material, setMaterial] = useState("");
  const at = `/library/cutter/${encodeURIComponent(cutter)}`;
  const found = useQuery({
    queryKey: ["finishes of", cutter],
    queryFn: () => call<FinishLine[]>(`${at}/finishes`),
  });
  const runs = useQuery({
    queryKey: ["runs of", cutter],
    queryFn: () => call<RunEdge[]>(`${at}/runs`),
  });
  const shop = useQuery({ queryKey: ["library"], queryFn: () => call<Library>("/library") });
  const called = (id: string) => shop.data?.material.find((m) => m.id === id)?.name ?? id;
  const seen = found.data ?? [],
    ran = runs.data ?? [];
  if (!seen.length && !ran.length) return null;
  const materials = [
    ...new Set([...seen.map((l) => called(l.seen.material)), ...ran.map((r) => r.material)]),
  ];
  const wanted = (m: string) => !material || m === material;
  return (
    <section aria-label="Edges it left" className="mt-3 border-t border-line pt-2">
      <h3 className="flex items-baseline gap-2 font-semibold">
        Edges it left
        {materials.length > 1 && (
          <span className="font-normal">
            in{" "}
            <Pick
              label="material that was cut"
              value={material}
              options={[["", "any material"], ...materials.map((m): [string, string] => [m, m])]}
              onPick={setMaterial}
            />
          </span>
        )}
      </h3>
      {seen.some((l) => wanted(called(l.seen.material))) && (
        <FinishTable lines={seen.filter((l) => wanted(called(l.seen.material)))} />
      )}
      <ul className="text-small">
        {ran
          .filter((r) => wanted(r.material))
          .map((r) => (
            <li key={r.number} className="flex items-baseline gap-2 border-t border-line py-1">
              <span className="label shrink-0">{when(r.made)}</span>
              <span>
                <b className="font-semibold">{finishSaid(r.edge)}</b> over{" "}
                <span className="num">{r.metres.toFixed(1)}</span> m in {r.material}, a run of {r.name}
                {r.seconds != null && `, ${clock(r.seconds)} for ${clock(r.planned)} planned`}
                {r.note && `: ${r.note}`}
              </span>
            </li>
          ))}
      </ul>
    </section>
  );
}
