/** Colours of six bands of height, low to high. */
export const BANDS = ["#2f5d8a", "#7fa6c4", "#c9d8de", "#f4ecd6", "#ecc98b", "#d08a3e"];

/** Heights in six bands as a picture one pixel a cell, y up. */
export function mapImage(z: number[][]): string {
  const rows = z.length,
    cols = z[0].length,
    all = z.flat(),
    low = Math.min(...all),
    high = Math.max(...all),
    c = document.createElement("canvas"),
    s = 4;
  c.width = cols * s;
  c.height = rows * s;
  const g = c.getContext("2d")!;
  const at = (x: number, y: number) => {
    const i = Math.min(rows - 1.001, Math.max(0, y)),
      j = Math.min(cols - 1.001, Math.max(0, x)),
      a = Math.floor(i),
      b = Math.floor(j),
      u = i - a,
      v = j - b;
    return (
      (z[a][b] * (1 - v) + z[a][b + 1] * v) * (1 - u) + (z[a + 1][b] * (1 - v) + z[a + 1][b + 1] * v) * u
    );
  };
  for (let y = 0; y < rows * s; y++)
    for (let x = 0; x < cols * s; x++) {
      const t = high > low ? (at(x / s - 0.4, y / s - 0.4) - low) / (high - low) : 1;
      g.fillStyle = BANDS[Math.min(5, Math.floor(t * 6))];
      g.fillRect(x, y, 1, 1);
    }
  return c.toDataURL();
}
