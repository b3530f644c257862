// Package wire holds the requests and responses of the API: what the service gives and takes, what the client sends
// and reads, and what the OpenAPI document is made from. Lists are never null; a measure travels as the text an
// engineer would write, beside its exact form where that matters.
package wire

// Page says where a list stands.
type Page struct {
	Offset int `json:"offset"`
	Limit  int `json:"limit"`
	Total  int `json:"total"`
}

// Text carries a document as it was written, in YAML or JSON.
type Text struct {
	Text string `json:"text" maxLength:"4000000"`
}

// Problem is an error (RFC 9457) with the product's own members.
type Problem struct {
	Type    string          `json:"type"`
	Title   string          `json:"title"`
	Status  int             `json:"status"`
	Detail  string          `json:"detail"`
	Mend    string          `json:"mend,omitempty" doc:"What would mend it"`
	Request string          `json:"request,omitempty" doc:"Identifier of the request, for the log"`
	Current *Part           `json:"current,omitempty" doc:"In a conflict: the part as it is now"`
	Errors  []ProblemDetail `json:"errors,omitempty"`
}

// ProblemDetail is one place that is wrong.
type ProblemDetail struct {
	Location string `json:"location,omitempty"`
	Message  string `json:"message"`
}
