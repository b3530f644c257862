package wire

// Release asks for a draft to be released.
type Release struct {
	Note string `json:"note" minLength:"1" maxLength:"2000"`
}

// BulkRelease asks for several drafts to be released in one deed.
type BulkRelease struct {
	Note  string     `json:"note" minLength:"1" maxLength:"2000"`
	Parts []PartBase `json:"parts" minItems:"1" maxItems:"20000"`
}

// PartBase names a part and the version that was looked at.
type PartBase struct {
	ID      string `json:"id"`
	Version int    `json:"version"`
}

// Released is what a bulk release did.
type Released struct {
	Parts   int      `json:"parts"`
	Numbers []string `json:"numbers"`
}

// Standing changes how a part may be used.
type Standing struct {
	Standing string `json:"standing" enum:"active,not for new designs,obsolete"`
	Why      string `json:"why" minLength:"1" maxLength:"500"`
}
