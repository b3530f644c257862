package wire

// Job is long work.
type Job struct {
	ID        string         `json:"id"`
	Kind      string         `json:"kind"`
	State     string         `json:"state" enum:"waiting,running,done,failed,stopped"`
	Done      int64          `json:"done"`
	Total     int64          `json:"total"`
	Error     string         `json:"error,omitempty"`
	TakenIn   *TakenIn       `json:"takenIn,omitempty"`
	Changed   *Changed       `json:"changed,omitempty"`
	Fetched   *Fetched       `json:"fetched,omitempty"`
	Verified  *Verification  `json:"verified,omitempty"`
	Refreshed *Refreshed     `json:"refreshed,omitempty"`
	Models    *FetchedModels `json:"models,omitempty"`
}
