import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call, post } from "../api/client";
import type { components } from "../api/schema";
import { Choices } from "../shared/Choices";
import { Over } from "../shared/Over";
import { inUnit } from "../shared/Tokens";
import { useUnit } from "../shared/lengths";
import { many } from "../shared/many";
import { when } from "../shared/when";
import { CutterDrawing } from "./CutterDrawing";

type Change = components["schemas"]["LibraryChange"];
type Compared = components["schemas"]["EntryCompared"];
type Side = components["schemas"]["EntrySide"];
type Beside = "after" | "now";

/** What was changed in the library, newest first; each change can be looked at and taken up again. */
export function Past({ at, say }: { at: number; say: (said: { bad: boolean; text: string }) => void }) {
  const [open, setOpen] = useState<number | null>(null);
  const list = useQuery({
    queryKey: ["library-history", at],
    queryFn: () => call<Change[]>("/library/history"),
  });
  return (
    <>
      <ol
        aria-label="History of the library"
        className="mt-2 max-h-52 shrink-0 overflow-auto border border-line bg-paper px-3 py-1.5 text-small"
      >
        {list.data?.map((c) => (
          <li key={c.number} className="rule flex items-baseline justify-between gap-3 py-0.5">
            <span className={`min-w-0 break-words ${c.undone ? "text-quiet line-through" : ""}`}>
              {c.says}
            </span>
            <span className="num ml-auto shrink-0 text-quiet">
              {c.author && `${c.author}, `}
              {when(c.made)}
            </span>
            <button
              className="key !px-2 !py-0 text-small"
              aria-label={`Compare change ${c.number} of the library`}
              onClick={() => setOpen(c.number)}
            >
              Compare
            </button>
          </li>
        ))}
        {list.data?.length === 0 && <li className="label">Nothing has been changed yet.</li>}
      </ol>
      {open !== null && <ChangeLookedAt number={open} close={() => setOpen(null)} say={say} />}
    </>
  );
}

/** A change of the library: the thing before it beside what it became, or what it is now. */
function ChangeLookedAt({
  number,
  close,
  say,
}: {
  number: number;
  close: () => void;
  say: (said: { bad: boolean; text: string }) => void;
}) {
  const [beside, setBeside] = useState<Beside>("after"),
    [wrong, setWrong] = useState(""),
    { unit } = useUnit(),
    client = useQueryClient();
  const { data, error } = useQuery({
    queryKey: ["library-change", number, beside],
    queryFn: () => call<Compared>(`/library/history/${number}?other=${beside}`),
    retry: 0,
  });
  const back = async () => {
    try {
      const done = await post<{ says: string }>(`/library/history/${number}/bring-back`, { at: "before" });
      await client.invalidateQueries({ queryKey: ["library"] });
      say({ bad: false, text: `${done.says}.` });
      close();
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  return (
    <Over title={`Change ${number} of the library`} size="page" close={close}>
      {(error ?? wrong) && (
        <p role="alert" className="text-stop">
          {error?.message ?? wrong}
        </p>
      )}
      {data && (
        <>
          <p>{data.says}</p>
          <div className="mt-2 flex items-center gap-3">
            <span className="label">before it, beside</span>
            <Choices
              label="beside"
              value={beside}
              options={[
                ["after", "after it"],
                ["now", "as it is now"],
              ]}
              onPick={setBeside}
            />
            <button className="key ml-auto" onClick={back}>
              Bring back as before
            </button>
          </div>
          <div className="mt-2 grid grid-cols-2 gap-4">
            {data.sides.map((s) => (
              <Entry key={s.at} side={s} scale={tallest(data.sides)} />
            ))}
          </div>
          <Differs compared={data} said={(text) => inUnit(text, unit)} />
        </>
      )}
    </Over>
  );
}

const TITLE = { before: "before", after: "after", now: "now" };
const tallest = (sides: Side[]) => Math.max(1, ...sides.map((s) => s.outline.at(-1)?.[1] ?? 0));

/** A cutter is drawn, both to one scale; anything else has its name. */
function Entry({ side, scale }: { side: Side; scale: number }) {
  const top = side.outline.at(-1)?.[1] ?? 0;
  return (
    <section aria-label={TITLE[side.at]} className="border border-line p-2">
      <h3 className="label">{TITLE[side.at]}</h3>
      <p className="font-medium">{side.there ? side.name : "not in the library"}</p>
      {top > 0 && (
        <div className="mt-1 grid h-44 place-items-end justify-center">
          <CutterDrawing
            points={side.outline}
            width={150}
            height={Math.max(20, (170 * top) / scale)}
            edge={side.edge}
            kind={side.form}
            label={`${side.name}, ${TITLE[side.at]}`}
          />
        </div>
      )}
    </section>
  );
}

function Differs({ compared, said }: { compared: Compared; said: (text: string) => string }) {
  const [one, other] = compared.sides;
  if (!compared.differs.length) return <p className="mt-2">It is the same in both.</p>;
  return (
    <table className="mt-2 w-full text-small">
      <caption className="pb-1 text-left">{many(compared.differs.length, "field")} otherwise</caption>
      <thead>
        <tr className="text-left text-quiet">
          <th className="font-normal">field</th>
          <th className="font-normal">{TITLE[one.at]}</th>
          <th className="font-normal">{TITLE[other.at]}</th>
        </tr>
      </thead>
      <tbody>
        {compared.differs.map((d) => (
          <tr key={d.field}>
            <td className="rule py-0.5 pr-3 text-quiet">{d.field}</td>
            <td className="num rule py-0.5 pr-3">{said(d.one)}</td>
            <td className="num rule py-0.5">{said(d.other)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
