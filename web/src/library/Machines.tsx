import { useQuery } from "@tanstack/react-query";

import { call } from "../api/client";
import type { Machine } from "../api/model";
import { KerfTableFields } from "./KerfTableFields";
import { MachineAxes } from "./MachineAxes";
import { MachineDrive, MachineOrders } from "./MachineDrive";
import { MachineTable } from "./MachineTable";
import { MachineZeros } from "./MachineZeros";
import type { Dialect } from "./dialect";
import { type Ctx, TextToken } from "./shelf";

export function Machines({ lib, save, remove }: Ctx) {
  return (
    <div>
      <NewKerfTable lib={lib} save={save} />
      <div className="grid grid-cols-2 gap-3 max-md:grid-cols-1">
        {lib.machine.map((m: Machine) => {
          const set = (f: Partial<Machine>) => save("machine", { ...m, ...f });
          return (
            <article key={m.id} className="border border-line bg-paper p-3" aria-label={m.name}>
              <h2 className="text-head font-semibold">
                <TextToken label="name" value={m.name} onCommit={(name) => set({ name })} />
              </h2>
              <MachineTable m={m} set={set} />
              {m.head ? <KerfTableFields m={m} head={m.head} set={set} /> : <MachineDrive m={m} set={set} />}
              <MachineAxes m={m} set={set} />
              <MachineOrders m={m} set={set} save={set} />
              <MachineZeros m={m} cutters={lib.cutter} set={set} />
              <p className="mt-2 flex gap-2">
                <button
                  className="key !py-0"
                  onClick={() =>
                    save("machine", {
                      ...m,
                      id: `machine-${Date.now().toString(36)}`,
                      name: `${m.name}, another`,
                    })
                  }
                >
                  Copy
                </button>
                <button className="key !py-0" onClick={() => remove("machine", m.id)}>
                  Remove
                </button>
              </p>
            </article>
          );
        })}
      </div>
    </div>
  );
}

/** A kerf table to begin with: a router's fields with a head in place of its spindle, and a dialect of its own. */
function NewKerfTable({ lib, save }: Pick<Ctx, "lib" | "save">) {
  const starters = useQuery({
    queryKey: ["dialects"],
    queryFn: () => call<Dialect[]>("/dialects"),
    staleTime: Infinity,
  });
  const dialect = starters.data?.find((d) => d.process === "head");
  const first = lib.machine.find((m) => m.head);
  return (
    <button
      className="key mb-2"
      disabled={!dialect}
      onClick={() =>
        save("machine", {
          id: `machine-${Date.now().toString(36)}`,
          name: first ? "Another kerf table" : "A kerf table",
          width: first?.width ?? 2500,
          height: first?.height ?? 1250,
          head: first?.head ?? {},
          dialect,
        })
      }
    >
      A new kerf table
    </button>
  );
}
