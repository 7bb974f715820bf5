import { useState } from "react";

import { call } from "../api/client";
import { LengthField } from "../shared/lengths";
import type { FitLine } from "./rack";

export type Asked = { width: number; height: number; found: FitLine[] };

/** "What would this fit in?": a size asked of the whole rack. */
export function WhatFits({ onFound }: { onFound: (a: Asked | null) => void }) {
  const [width, setWidth] = useState(600),
    [height, setHeight] = useState(400),
    [said, setSaid] = useState("");
  const ask = async () => {
    try {
      const found = await call<FitLine[]>(`/rack/fits?width=${width}&height=${height}`);
      const n = found.length;
      setSaid(
        n
          ? `fits in ${n} lot${n === 1 ? "" : "s"}, the smallest remnant first`
          : "fits in nothing that is free",
      );
      onFound({ width, height, found });
    } catch (e) {
      setSaid((e as Error).message);
    }
  };
  return (
    <section aria-label="What would this fit in" className="border border-line bg-paper p-3">
      <h2 className="font-semibold">What would this fit in?</h2>
      <LengthField label="width" mm={width} onCommit={setWidth} />
      <LengthField label="height" mm={height} onCommit={setHeight} />
      <div className="mt-1 flex gap-1.5">
        <button className="key-strong" onClick={ask}>
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
