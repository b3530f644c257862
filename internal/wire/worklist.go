package wire

import "time"

// Worklist is what waits for whoever asks, kind by kind.
type Worklist struct {
	Kinds []WorkKind `json:"kinds"`
}

// WorkKind is what waits of one kind.
type WorkKind struct {
	Key     string     `json:"key"`
	Title   string     `json:"title"`
	Total   int        `json:"total"`
	AtLeast bool       `json:"atLeast,omitempty" doc:"No more than total were counted: there may be more"`
	Items   []WorkItem `json:"items" doc:"The first of them, what waits longest first"`
	Empty   string     `json:"empty,omitempty" doc:"What to say where nothing waits"`
	Problem string     `json:"problem,omitempty" doc:"It could not be asked for"`
}

// WorkItem is one thing that waits.
type WorkItem struct {
	Kind   string    `json:"kind" doc:"part, model, want, intake, bom or job"`
	ID     string    `json:"id"`
	Name   string    `json:"name" doc:"Number or name"`
	What   string    `json:"what"`
	Since  time.Time `json:"since"`
	Remark string    `json:"remark,omitempty"`
}
