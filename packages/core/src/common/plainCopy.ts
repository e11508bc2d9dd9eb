/** A deep copy of plain JSON that shares nothing with `value`, which may be a draft of a document. */
export const plainCopy = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;
