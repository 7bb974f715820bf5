const SIDE = { "on line": 0, inside: -1, outside: 1 } as Record<string, number>;

/** What the cutter takes away of a closed groove line: the line dashed, what is cut filled. */
export function ClosedLine({ way }: { way: string }) {
  const at = 11 - (SIDE[way] ?? 0) * 3,
    size = 44 - 2 * at;
  return (
    <svg width="34" height="34" viewBox="5 5 34 34" aria-hidden className="mr-1.5 inline-block align-middle">
      {way === "clear" ? (
        <rect x="11" y="11" width="22" height="22" className="fill-accent" opacity=".45" />
      ) : (
        <rect
          x={at}
          y={at}
          width={size}
          height={size}
          rx="1"
          fill="none"
          className="stroke-accent"
          strokeWidth="6"
          opacity=".45"
        />
      )}
      <rect
        x="11"
        y="11"
        width="22"
        height="22"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.6"
        strokeDasharray="4 2.5"
      />
    </svg>
  );
}
