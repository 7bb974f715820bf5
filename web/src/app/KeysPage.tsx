import { Over } from "../shared/Over";
const KEYS: [string, [string, string][]][] = [
  [
    "Everywhere in a job",
    [
      ["1 to 7", "the stations of the route"],
      ["Ctrl Z", "take the last edit back"],
      ["Ctrl Y, Ctrl Shift Z", "do it again"],
      ["Esc", "let go of what is chosen, leave the moment on the tape"],
      ["R", "reckonings: the small sums of the trade"],
      ["?", "this page"],
    ],
  ],
  [
    "On the table",
    [
      ["wheel, two fingers, + and -", "nearer and farther"],
      ["0", "the whole sheet"],
      ["D", "measure: each two clicks a distance; Esc takes them away"],
      ["arrow keys", "move the piece, tab, start, screw or clamp that has the focus; Shift in larger steps"],
      ["Ctrl and arrow keys", "to the piece beside; where pieces are not moved the arrow keys alone"],
      ["Shift or Ctrl and click", "choose several pieces; Shift and drag draws a frame, Ctrl A takes all"],
      ["Ctrl C, Ctrl V", "lay as many more of the chosen pieces"],
      ["T, Shift T", "turn the piece"],
      ["M", "turn it over"],
      ["Alt while dragging", "leave it free of contact"],
      ["double click on an edge", "a tab there (Cuts & hold)"],
      ["Delete", "take the tab, screw or clamp away"],
    ],
  ],
  [
    "Parts",
    [
      ["+ and -", "one more, one less"],
      ["O", "open the part"],
      ["G", "grain"],
      ["M", "may be turned over"],
      ["Delete", "remove it"],
    ],
  ],
  ["Nest", [["N", "search for a layout"]]],
  [
    "The tape",
    [
      ["arrow keys", "from cut to cut"],
      ["Home, End", "the first moment, the last"],
    ],
  ],
];

/** Every key, by where it works. */
export default function KeysPage({ close }: { close: () => void }) {
  return (
    <Over title="Keys" size="page" close={close}>
      <div className="mt-2 gap-x-8 sm:columns-2">
        {KEYS.map(([where, keys]) => (
          <section key={where} className="mb-4 break-inside-avoid">
            <h2 className="font-semibold">{where}</h2>
            <dl className="grid grid-cols-[9.5rem_1fr] gap-x-3">
              {keys.map(([key, does]) => (
                <div key={key} className="contents">
                  <dt className="num rule py-0.5 text-small">{key}</dt>
                  <dd className="rule py-0.5">{does}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
      <p className="label">While a field or a word of a sentence is being typed in, keys are letters.</p>
    </Over>
  );
}
