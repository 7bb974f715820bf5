import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call } from "../api/client";
import { type FoldView, type Setup } from "../api/model";
import { Reckon } from "../reckonings/anywhere";
import { LengthToken, NumberToken } from "../shared/Tokens";
import { length, useUnit } from "../shared/lengths";

/** A V groove to fold sheet along, and what the bend does to the length. */
export function Fold({
  setup,
  bit,
}: {
  setup: Setup;
  bit?: { angle?: number | null; diameter: number; tip: number; name: string };
}) {
  const { unit } = useUnit();
  const sheet = setup.stock.find((s) => s.quantity)?.thickness ?? 3;
  const [t, setT] = useState(Math.min(4, sheet)),
    [skin, setSkin] = useState(Math.min(0.8, t / 4)),
    [angle, setAngle] = useState(90),
    [open, setOpen] = useState(false);
  const f = useQuery({
    queryKey: ["fold", t, skin, angle, bit?.angle, bit?.diameter],
    enabled: open && !!bit,
    retry: false,
    queryFn: () =>
      call<FoldView>(
        `/fold?thickness=${t}&skin=${skin}&angle=${angle}&bit_angle=${bit!.angle ?? 90}&bit_diameter=${bit!.diameter}&tip=${bit!.tip}`,
      ),
  });
  if (!bit) return null;
  return (
    <details
      className="mt-3 border-t border-line pt-2"
      onToggle={(e) => setOpen((e.target as HTMLDetailsElement).open)}
    >
      <summary className="cursor-pointer text-head font-semibold">Groove for folding</summary>
      <Reckon
        name="fold-groove"
        given={{ thickness: `${t}`, skin: `${skin}`, fold: `${angle}`, angle: `${bit.angle ?? 90}` }}
      >
        any way round
      </Reckon>
      <p className="text-small leading-[1.6]">
        In <LengthToken label="thickness of the sheet" mm={t} onCommit={setT} /> of sheet {bit.name} leaves a
        skin of <LengthToken label="skin" mm={skin} onCommit={setSkin} />, folded by{" "}
        <NumberToken
          label="fold angle"
          value={angle}
          unit="°"
          least={1}
          onCommit={(v) => setAngle(Math.min(179, v))}
        />
        .
      </p>
      {f.error && (
        <p role="alert" className="text-stop">
          {(f.error as Error).message}
        </p>
      )}
      {f.data && (
        <>
          <dl className="grid grid-cols-[1fr_auto] gap-x-3 text-small">
            <dt>groove</dt>
            <dd className="num text-right">
              {length(f.data.depth, unit)} deep, {length(f.data.width, unit)} wide
            </dd>
            <dt>bend allowance</dt>
            <dd className="num text-right">{length(f.data.allowance, unit)}</dd>
            <dt>the blank is shorter by</dt>
            <dd className="num text-right">{length(f.data.deduction, unit)}</dd>
          </dl>
          <p className="label">{f.data.says}. The blank is the sum of the outer sides less that.</p>
        </>
      )}
    </details>
  );
}
