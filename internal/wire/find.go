package wire

// FoundRow is a row that was found by its label.
type FoundRow struct {
	ID        string `json:"id"`
	Label     string `json:"label"`
	Tab       string `json:"tab"`
	TabID     string `json:"tab_id"`
	Tracker   string `json:"tracker"`
	TrackerID string `json:"tracker_id"`
}
