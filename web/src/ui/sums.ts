/** The number of a sum of money, for drawing only; none where there is no sum. */
export const numberOf = (text?: string) => (text ? Number(text.split(' ')[0]) : undefined);
