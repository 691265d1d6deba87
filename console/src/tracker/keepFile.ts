// How a file for a cell is kept: uploaded at once, for a column of a tab.
import { api, ask, fileBody, type Tab, type Tracker } from "../api/client";
import type { KeepFile } from "../parts/FileField";

export const keepFileIn =
  (tracker: Tracker, tab: Tab): KeepFile =>
  (column, file) =>
    ask(
      api.POST("/api/v1/trackers/{tracker}/tabs/{tab}/columns/{column}/attachments", {
        params: { path: { tracker: tracker.id, tab: tab.id, column: column.id }, query: { name: file.name } },
        ...fileBody(file),
      }),
    );
