/** The shapes that documents give states, as signs. */
export const shapes: Record<string, string> = {
  ring: '○',
  half: '◐',
  disc: '●',
  square: '■',
  bar: '▬',
  cross: '✕',
  triangle: '▲',
  diamond: '◆',
};
