/** The address of pages as a workbook: of all of a kind, or of some rows. */
export function bookAt(tracker: string, pattern: string, rows: string[]): string {
  const query = rows.map((r) => `page=${encodeURIComponent(r)}`).join("&");
  return `/api/v1/trackers/${tracker}/dossiers/${pattern}/workbook${query && `?${query}`}`;
}
