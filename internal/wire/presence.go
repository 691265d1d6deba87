package wire

// Place says where in a tracker somebody is.
type Place struct {
	Tab    string `json:"tab,omitempty" maxLength:"400" doc:"Id"`
	Row    string `json:"row,omitempty" maxLength:"100" doc:"Id"`
	Column string `json:"column,omitempty" maxLength:"400" doc:"Name"`
}

// Present is somebody who has a page of a tracker open.
type Present struct {
	Person  int64  `json:"person" doc:"Id"`
	Name    string `json:"name"`
	Page    string `json:"page" doc:"Tells apart the pages of one person"`
	Tracker string `json:"tracker" doc:"Id"`
	Label   string `json:"label,omitempty" doc:"Of the row"`
	Place
}
