import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";

import { call } from "../api/client";
import type { Reckoned, Reckoning, ReckoningField } from "../api/model";
import { Pick } from "../shared/Pick";
import { type Unit, useUnit } from "../shared/lengths";
import { Figure } from "./Figure";

/** What was typed, the last first; each in the unit that was shown then. */
export type Typed = { name: string; text: string; unit: Unit }[];

/** One reckoning: its fields, any of which can be typed, its drawing, formula and source. */
export function Sum({ of, start }: { of: Reckoning; start: Typed }) {
  const { unit } = useUnit();
  const [typed, setTyped] = useState<Typed>(start);
  const asked = typed.map((t) => `given=${encodeURIComponent(`${t.name}@${t.unit}=${t.text}`)}`).join("&");
  const { data, error } = useQuery({
    queryKey: ["reckoned", of.name, asked, unit],
    queryFn: () => call<Reckoned>(`/reckonings/${of.name}?unit=${unit}&${asked}`),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: 0,
  });
  const say = (name: string, text: string) =>
    setTyped((now) => [{ name, text, unit }, ...now.filter((t) => t.name !== name)]);
  const back = (name: string) => setTyped((now) => now.filter((t) => t.name !== name));
  const usual = of.fields.filter((f) => f.usual),
    sum = of.fields.filter((f) => !f.usual);
  const line = (f: ReckoningField) => (
    <Line
      key={f.name}
      field={f}
      value={data?.values.find((v) => v.name === f.name)}
      typed={typed.find((t) => t.name === f.name)?.text}
      last={typed[0]?.name === f.name}
      onType={(text) => say(f.name, text)}
      onEmpty={() => back(f.name)}
    />
  );
  return (
    <div className="grid content-start gap-x-6 gap-y-3 lg:grid-cols-[minmax(0,1fr)_minmax(0,1.1fr)]">
      <div>
        <p>{of.asks}</p>
        <div className="mt-2">{sum.map(line)}</div>
        {usual.length > 0 && (
          <>
            <h3 className="label mt-3">stands until you say otherwise</h3>
            {usual.map(line)}
          </>
        )}
        <p className="mt-2 min-h-10 text-small" role={error ? "alert" : "status"}>
          {error ? (
            <span className="text-stop">{error.message}</span>
          ) : (
            [
              ...(data?.says ?? []),
              ...(data?.missing.length ? [`Not known yet: ${data.missing.join(", ")}. Give one more.`] : []),
            ].join(" ")
          )}
        </p>
        {typed.length > 0 && (
          <button className="key" onClick={() => setTyped([])}>
            As it was opened
          </button>
        )}
      </div>
      <div>
        <Figure marks={data?.marks ?? []} title={of.title} />
        <p className="mt-2 font-medium">{of.formula}</p>
        <p className="label">{of.source}</p>
      </div>
    </div>
  );
}

type LineProps = {
  field: ReckoningField;
  value?: Reckoned["values"][number];
  typed?: string;
  last: boolean;
  onType: (text: string) => void;
  onEmpty: () => void;
};

function Line(props: LineProps) {
  const { field, value, onType } = props,
    id = useId();
  const follows = field.follows || value?.given === false;
  return (
    <div className="rule grid grid-cols-[minmax(6.2rem,1fr)_0.8rem_7.8rem_minmax(0,6.8rem)] items-baseline gap-x-2 py-0.5">
      <label htmlFor={id} className={follows ? "font-medium" : "text-quiet"}>
        {field.label}
      </label>
      <span className="num text-center" aria-hidden>
        {follows ? "=" : ""}
      </span>
      {field.kind === "choice" ? (
        <span className="col-span-2">
          <Pick
            label={field.label}
            value={value?.shown ?? field.words[0]}
            options={field.words.map((w): [string, string] => [w, w])}
            onPick={onType}
          />
        </span>
      ) : (
        <>
          {field.follows ? (
            <output id={id} className="num px-1.5 text-right font-medium">
              {value?.shown ?? "-"}
            </output>
          ) : (
            <Typing {...props} id={id} follows={follows} />
          )}
          <span className="num truncate text-right text-small text-quiet">
            {value?.other === value?.shown ? "" : value?.other}
          </span>
        </>
      )}
    </div>
  );
}

/** A field that is typed in; what it comes to is shown in its unit as soon as it is left. */
function Typing({
  id,
  follows,
  value,
  typed,
  last,
  onType,
  onEmpty,
}: LineProps & { id: string; follows: boolean }) {
  const [here, setHere] = useState<string | null>(null); // what is being typed
  const shown = here ?? value?.shown ?? typed ?? "";
  return (
    <>
      <input
        id={id}
        className={`field text-right ${follows ? "font-medium" : ""}`}
        value={shown}
        autoComplete="off"
        spellCheck={false}
        aria-describedby={`${id}-how`}
        onFocus={(e) => {
          setHere(last && typed !== undefined ? typed : shown);
          e.currentTarget.select();
        }}
        onChange={(e) => {
          setHere(e.target.value);
          if (e.target.value.trim()) onType(e.target.value);
          else onEmpty();
        }}
        onBlur={() => setHere(null)}
      />
      <span id={`${id}-how`} className="sr-only">
        {follows ? "worked out; type to give it" : "given"}
      </span>
    </>
  );
}
