// How the tracker at hand writes dates.
import { createContext } from "react";

/** The ways to write dates, by how they write the last of March 2026. */
export const dateForms = ["2026-03-31", "31.03.2026", "31/03/2026", "03/31/2026", "31 March 2026", "31 Mar 2026"];

export const DateForm = createContext("");
