import type { Edits } from "../../api/edits";
import { clock, type Setup, type Snag } from "../../api/model";
import { Section } from "../../shared/Section";
import { Snags } from "../../shared/Snags";
import { useLoads } from "../../tape/useLoads";

type Props = { setup: Setup; edits: Edits; onFind: (s: Snag) => void };

/** Peaks of load on the sheet that is shown, each with its moment, and what moves lose that do not reach their feed. */
export function Peaks({ setup, edits, onFind }: Props) {
  const loads = useLoads().data;
  if (!loads) return null;
  const lost = loads.lost.reduce((sum, l) => sum + l.seconds, 0);
  return (
    <Section
      title="Load"
      figure={
        loads.snags.length
          ? `${loads.snags.length} to see`
          : lost
            ? `${clock(lost)} by slow moves`
            : "within its limits"
      }
      open={loads.snags.some((s) => s.severity !== "note")}
      strong
    >
      {lost > 0 && (
        <table className="w-full text-small">
          <caption className="label text-left">
            Short moves and corners do not come up to the feed that is programmed:
          </caption>
          <tbody>
            {loads.lost.map((l) => (
              <tr key={l.cutter} className="rule">
                <td className="py-0.5">{setup.cutters.find((c) => c.id === l.cutter)?.name ?? l.cutter}</td>
                <td className="num text-right">{Math.round(l.share * 100)} % of its way</td>
                <td className="num text-right">{clock(l.seconds)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Snags snags={loads.snags} edits={edits} onFind={onFind} quiet={lost > 0} />
    </Section>
  );
}
