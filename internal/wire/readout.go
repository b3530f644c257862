package wire

// ReadoutFolder says what was written into a readout folder.
type ReadoutFolder struct {
	Files int   `json:"files"`
	Bytes int64 `json:"bytes"`
}
