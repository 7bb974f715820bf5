const SIDE = { "on line": 0, inside: -1, outside: 1 } as Record<string, number>;

/** What the cutter takes away of a closed groove line: the line dashed, what is cut filled. */
export function ClosedLine({ way }: { way: string }) {
  const at = 7 - (SIDE[way] ?? 0) * 2.5, size = 26 - 2 * at;
  return (
    <svg width="30" height="26" viewBox="0 0 26 26" aria-hidden className="mr-1.5 inline-block align-middle">
      {way === "clear" ? <rect x="7" y="7" width="12" height="12" fill="currentColor" opacity=".55" /> : <rect x={at} y={at} width={size} height={size} rx="1" fill="none" stroke="currentColor" strokeWidth="5" opacity=".55" />}
      <rect x="7" y="7" width="12" height="12" fill="none" stroke="currentColor" strokeWidth="1.2" strokeDasharray="3 2" />
    </svg>
  );
}
