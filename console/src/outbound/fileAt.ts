// The addresses of files that rules wrote.
export const fileAt = (tracker: string, path: string) =>
  `/api/v1/trackers/${encodeURIComponent(tracker)}/outbound/file?path=${encodeURIComponent(path)}`;
