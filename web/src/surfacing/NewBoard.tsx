import { useState } from "react";

import { call } from "../api/client";
import { type Board } from "../api/model";
import { useLibrary } from "../api/queries";
import { Pick } from "../shared/Pick";
import { focusHere } from "../shared/keys";
import { LengthField } from "../shared/lengths";

export function NewBoard({ onMade }: { onMade: (id: string) => void }) {
  const [open, setOpen] = useState(false),
    [name, setName] = useState(""),
    [kind, setKind] = useState<Board["kind"]>("board"),
    [w, setW] = useState(800),
    [h, setH] = useState(300),
    [t, setT] = useState(30),
    [machine, setMachine] = useState(""),
    [wrong, setWrong] = useState("");
  const library = useLibrary().data;
  const make = async () => {
    const id =
      name
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, "-")
        .replace(/^-|-$/g, "") || "board";
    try {
      const board = {
        id,
        name,
        kind,
        machine: machine || library?.machine[0]?.id || null,
        x: 100,
        y: 100,
        width: w,
        height: h,
        thickness: t,
        least: Math.min(9, t / 2),
      };
      await call(`/surfacing/${id}`, {
        method: "PUT",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({ id, board }),
      });
      setOpen(false);
      setName("");
      onMade(id);
    } catch (e) {
      setWrong((e as Error).message);
    }
  };
  if (!open)
    return (
      <button className="key" onClick={() => setOpen(true)}>
        + a board
      </button>
    );
  return (
    <form
      className="absolute left-1/2 top-20 z-20 grid w-[330px] -translate-x-1/2 gap-1 border-2 border-ink bg-paper p-4 shadow-lg"
      onSubmit={(e) => {
        e.preventDefault();
        make();
      }}
      aria-label="New board"
    >
      <label className="grid">
        <span className="label">name</span>
        <input
          className="field !font-sans"
          ref={focusHere}
          required
          maxLength={120}
          value={name}
          onChange={(e) => setName(e.target.value)}
          aria-label="Name of the board"
        />
      </label>
      <label className="grid">
        <span className="label">it is</span>
        <Pick
          label="Kind of board"
          value={kind}
          options={[
            ["board", "a board to be planed"],
            ["spoilboard", "a spoilboard"],
          ]}
          onPick={setKind}
        />
      </label>
      <label className="grid">
        <span className="label">machine</span>
        <Pick
          label="Machine"
          value={machine || library?.machine[0]?.id || ""}
          options={(library?.machine ?? []).map((m): [string, string] => [m.id, m.name])}
          onPick={setMachine}
        />
      </label>
      <LengthField label="length along X" mm={w} onCommit={setW} />
      <LengthField label="width along Y" mm={h} onCommit={setH} />
      <LengthField label="thickness" mm={t} onCommit={setT} />
      {wrong && (
        <p role="alert" className="text-stop">
          {wrong}
        </p>
      )}
      <div className="mt-1 flex gap-2">
        <button className="key-strong">Put it on the bench</button>
        <button type="button" className="key" onClick={() => setOpen(false)}>
          No
        </button>
      </div>
    </form>
  );
}
