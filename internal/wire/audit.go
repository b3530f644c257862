package wire

// Verification is the outcome of recomputing what can be recomputed.
type Verification struct {
	Heads     int      `json:"heads"`
	Contents  int      `json:"contents"`
	Entries   int      `json:"entries" doc:"Trail entries whose chain was followed"`
	Different []string `json:"different" doc:"Every difference found, in words"`
}
