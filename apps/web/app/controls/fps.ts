import { createContext, useContext } from "react";

/** Frames a second where fields stand in a shot: there `12 frames` is a time, and `2 s` a number of frames. */
export const FpsContext = createContext<number | undefined>(undefined);

export const useFps = (): number | undefined => useContext(FpsContext);
