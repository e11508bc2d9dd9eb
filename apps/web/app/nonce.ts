import { createContext } from "react-router";

/** The nonce of this answer's scripts, from the server to the document. */
export const nonceContext = createContext("");
