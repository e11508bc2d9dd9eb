/** A new opaque id for a record of the shot. */
export const newId = (): string => crypto.randomUUID().slice(0, 18);
