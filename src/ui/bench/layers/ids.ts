/** Ids of what is new in a piece. */
export const newId = () => crypto.randomUUID().slice(0, 13);
