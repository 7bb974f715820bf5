/** A count with what is counted: 1 piece, 2 pieces. */
export const many = (n: number, one: string, several = `${one}s`) =>
  `${n.toLocaleString("en-US")} ${n === 1 ? one : several}`;
