import { type ReactNode } from "react";

import { type Bench, type BenchView } from "../api/model";

export type Tab = "cut" | "flat" | "ridges" | "ledger";

export const percent = (v: number) => `${Math.round(v * 100)} %`;

/** First or second face of a board. */
export type Face = 1 | 2;

/** ``view``: the board as it lies for the face that is looked at. */
export type Tabs = { view: BenchView; put: (f: Partial<Bench>) => void; face?: Face };

export const Facts = ({ rows }: { rows: [ReactNode, ReactNode][] }) => (
  <dl className="grid grid-cols-[1fr_auto] gap-x-3 text-small">
    {rows.map(([k, v], i) => (
      <div key={i} className="contents">
        <dt>{k}</dt>
        <dd className="num text-right">{v}</dd>
      </div>
    ))}
  </dl>
);
