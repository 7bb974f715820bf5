import { type Edits } from "../../api/edits";
import type { Setup } from "../../api/model";
import { Section } from "../../shared/Section";
import { bare, length, LengthField, useUnit } from "../../shared/lengths";

/** The sheet's corner on the table, and a second point of its lower edge where it was laid crooked. */
export function WhereItLies({ setup, edits }: { setup: Setup; edits: Edits }) {
  const { unit } = useUnit();
  const [x, y] = setup.sheet_at,
    edge = setup.edge_at;
  const put = (fields: Record<string, unknown>) =>
    edits.run({ kind: "change-setup", setup: setup.id, ...fields });
  const turned = `turned ${Math.abs(setup.turn).toFixed(2)}° ${setup.turn < 0 ? "clockwise" : "counter-clockwise"}`;
  return (
    <Section
      strong
      title="Where the sheet lies"
      figure={`${bare(x, unit)}, ${length(y, unit)}${edge ? `, turned ${Math.abs(setup.turn).toFixed(2)}°` : ""}`}
    >
      <LengthField
        label="sheet's corner, from the table's left"
        mm={x}
        onCommit={(v) => put({ corner: { x: v } })}
      />
      <LengthField
        label="sheet's corner, from the table's near side"
        mm={y}
        onCommit={(v) => put({ corner: { y: v } })}
      />
      {edge ? (
        <>
          <LengthField
            label="far end of its lower edge, from the left"
            mm={edge[0]}
            onCommit={(v) => put({ edge: [v, edge[1]] })}
          />
          <LengthField
            label="far end of its lower edge, from the near side"
            mm={edge[1]}
            onCommit={(v) => put({ edge: [edge[0], v] })}
          />
          <p className="label" data-testid="turned">
            The sheet lies {turned}; programs are written turned with it, for this sheet only.
          </p>
          <button className="key mt-1" onClick={() => put({ edge: "straight" })}>
            It lies straight
          </button>
        </>
      ) : (
        <button
          className="key mt-1"
          title="Read a second point on its lower edge: programs are turned with the sheet"
          onClick={() => put({ edge: [x + (setup.stock[0]?.width ?? 500), y] })}
        >
          It lies crooked: read a second point
        </button>
      )}
    </Section>
  );
}
