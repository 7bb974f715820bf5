import { type FormEvent, useState } from "react";

import { author, setAuthor } from "../../api/client";
import type { SheetVerdict } from "../../api/model";
import { Section } from "../../shared/Section";
import { inUnit } from "../../shared/Tokens";
import { quantity, useUnit } from "../../shared/lengths";
import { when } from "../../shared/when";
import { useVerdict } from "./useVerdict";

const HEAD: Record<SheetVerdict["verdict"], string> = {
  stopped: "border-stop text-stop",
  "to look at": "border-ink",
  clear: "border-accent text-accent",
};
const WORD = { stop: "stop", look: "look", note: "note" };
const many = (n: number, one: string) => `${n} ${one}${n === 1 ? "" : "s"}`;

/** One verdict on the sheet that is shown: what every rule says together, and who has looked. */
export function Verdict({ name }: { name: string }) {
  const { found, look } = useVerdict();
  if (found.error)
    return (
      <p role="alert" className="text-stop">
        {found.error.message}
      </p>
    );
  const v = found.data;
  if (!v)
    return (
      <p role="status" className="mt-1">
        {name}: weighing up plan, programs, loads and what is left ...
      </p>
    );
  return (
    <section aria-label={`Verdict on ${name}`} className={`mt-1 border-l-8 pl-2.5 ${HEAD[v.verdict]}`}>
      <h2 className="text-figure font-semibold" data-testid="verdict">
        {name}: {v.verdict}
      </h2>
      <p className="text-small text-ink">{counted(v)}</p>
      <div className="text-ink">
        <Rules verdict={v} />
        <Looked record={v.record} />
        {v.stops === 0 && (
          <LookForm
            key={v.seen}
            again={!!v.record}
            busy={look.isPending}
            fault={look.error?.message}
            onLook={(note) => look.mutate(note)}
          />
        )}
      </div>
    </section>
  );
}

const counted = (v: SheetVerdict) =>
  [v.stops && many(v.stops, "stop"), v.looks && `${v.looks} to look at`, v.notes && many(v.notes, "note")]
    .filter(Boolean)
    .join(", ") || "no rule has anything to say";

/** Every rule that spoke, the gravest first. */
function Rules({ verdict: v }: { verdict: SheetVerdict }) {
  const { unit } = useUnit();
  return (
    <Section
      title="Every rule that spoke"
      figure={v.rules.length}
      open={v.verdict !== "clear" && v.rules.length < 8}
    >
      <ul className="text-small">
        {v.rules.map((r) => (
          <li key={r.rule} className="rule py-0.5">
            <b className={`font-semibold ${r.severity === "stop" ? "text-stop" : ""}`}>
              {WORD[r.severity]}
              {r.count > 1 && ` ×${r.count}`}
            </b>{" "}
            {inUnit(r.message, unit)}
          </li>
        ))}
      </ul>
      {v.removed !== null && (
        <p className="label">{quantity(v.removed, "volume", unit)} are taken off the sheet.</p>
      )}
    </Section>
  );
}

/** The last record that somebody looked, and whether it still stands. */
function Looked({ record: r }: { record: SheetVerdict["record"] }) {
  if (!r) return <p className="label mt-1">Nobody has looked at it yet.</p>;
  const stale = r.changed.length > 0;
  return (
    <p className="mt-1 text-small" data-testid="looked-at">
      {stale ? "Was looked at" : "Looked at"} by <b className="font-semibold">{r.author || "somebody"}</b>,{" "}
      <span className="num">{when(r.made)}</span>, change <span className="num">{r.revision}</span>
      {r.note && `: ${r.note}`}.{" "}
      {stale ? (
        <b className="font-semibold">Changed since: {listed(r.changed)}.</b>
      ) : (
        "It is still as it was."
      )}
    </p>
  );
}

const listed = (names: string[]) =>
  names.length > 6 ? `${names.slice(0, 6).join(", ")} and ${names.length - 6} more` : names.join(", ");

type FormProps = { again: boolean; busy: boolean; fault?: string; onLook: (note: string) => void };

/** A second person says that they have looked. */
function LookForm({ again, busy, fault, onLook }: FormProps) {
  const [open, setOpen] = useState(false);
  const [who, setWho] = useState(author()),
    [note, setNote] = useState("");
  const send = (e: FormEvent) => {
    e.preventDefault();
    setAuthor(who);
    onLook(note);
  };
  if (!open)
    return (
      <button className={`${again ? "key" : "key-strong"} mt-1`} onClick={() => setOpen(true)}>
        I have looked {again ? "again" : ""}
      </button>
    );
  return (
    <form onSubmit={send} className="mt-1 flex flex-wrap items-end gap-2 text-small">
      <label>
        your name
        <input
          className="field block w-28 !font-sans"
          value={who}
          maxLength={80}
          onChange={(e) => setWho(e.target.value)}
        />
      </label>
      <label className="min-w-0 grow basis-40">
        what was seen
        <input
          className="field block w-full !font-sans"
          value={note}
          maxLength={500}
          placeholder="nothing odd"
          onChange={(e) => setNote(e.target.value)}
        />
      </label>
      <button className="key-strong" disabled={busy}>
        It can be cut
      </button>
      {fault && (
        <p role="alert" className="basis-full text-stop">
          {fault}
        </p>
      )}
    </form>
  );
}
