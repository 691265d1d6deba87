// How the tracker at hand writes dates and numbers.
import { createContext } from "react";

/** The ways to write dates, by how they write the last of March 2026. */
export const dateForms = ["2026-03-31", "31.03.2026", "31/03/2026", "03/31/2026", "31 March 2026", "31 Mar 2026"];

/** The ways to write numbers, by how they write 1234.5. */
export const numberForms = ["1 234.5", "1,234.5", "1.234,5", "1 234,5"];

export type Forms = { dates?: string; numbers?: string; zone?: string };

export const Writing = createContext<Forms>({});
