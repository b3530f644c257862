package deed

import (
	"errors"
	"fmt"
	"strings"

	"jollydrawer/formats/rows"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Kind groups errors by what the caller can do about them.
type Kind int

// The kinds of error.
const (
	Invalid   Kind = iota // the request is wrong
	Unknown               // what it names is not there
	Clash                 // it was changed meanwhile, or is taken
	Forbidden             // the role does not allow it
	Stranger              // nobody is signed in
	TooLarge
	Busy    // try again
	Crowded // too often: try again later
)

// Error is a sentence for a person, with what would mend it.
type Error struct {
	Kind    Kind
	Type    string // stable name, such as "part-changed"
	What    string
	Mend    string
	Places  []wire.ProblemDetail
	Current any // in a conflict: the thing as it is now, as the API shows it
}

func (e *Error) Error() string {
	s := e.What
	for _, p := range e.Places {
		s += " " + p.Message + "."
	}
	if e.Mend != "" {
		s += " " + e.Mend
	}
	return s
}

// Fault makes an Error.
func Fault(k Kind, typ, what, mend string) *Error {
	return &Error{Kind: k, Type: typ, What: what, Mend: mend}
}

// Sentence turns errors of lower layers into an Error; what it does not know stays as it is and is an internal error.
func Sentence(err error, what string) error {
	var e *Error
	var r *rows.Error
	switch {
	case err == nil || errors.As(err, &e):
		return err
	case errors.As(err, &r):
		return Fault(Invalid, "file-unreadable", r.Sentence, "")
	case errors.Is(err, store.ErrNotFound):
		return Fault(Unknown, "not-found", fmt.Sprintf("There is no such %s.", what), "Check how it is written, or look it up.")
	case errors.Is(err, store.ErrConflict):
		return Fault(Clash, "changed-meanwhile", fmt.Sprintf("The %s was changed by somebody else meanwhile; nothing was saved.", what), "Load it again and repeat your change.")
	case errors.Is(err, store.ErrCabinetMoved):
		return Fault(Clash, cabinetMoved, "The templates were changed by somebody else meanwhile; nothing was saved.", "Look at the cabinet, and do it again.")
	case errors.Is(err, store.ErrReused):
		return Fault(Clash, "deed-reused", "The identifier of this deed was used for another deed.", "Send a new Deed-Id.")
	case unfit(err) != "":
		return Fault(Invalid, "too-long", fmt.Sprintf("%s is longer, or greater, than what can be kept; nothing was changed.", unfit(err)), "Shorten it.")
	case store.Transient(err):
		return Fault(Busy, "database-busy", "The database did not take the change.", "Try again in a moment: the deed is done once, however often it is sent with the same Deed-Id.")
	}
	return err
}

// unfit names what the database has no room for; "" where that is not what is wrong.
func unfit(err error) string {
	column, ok := store.Unfit(err)
	switch {
	case !ok:
		return ""
	case column == "" || column == "bytes" || column == "detail": // a content, or what the trail says of it
		return "A text or a number"
	}
	return "What is given as " + strings.ReplaceAll(column, "_", " ")
}

// SentenceOf is the text of an error with a full stop.
func SentenceOf(err error) string {
	s := err.Error()
	if !strings.HasSuffix(s, ".") {
		s += "."
	}
	return s
}

// cabinetMoved is the type of the error of a write that assumed other templates.
const cabinetMoved = "cabinet-changed"

// CabinetMoved says whether a write assumed templates that were changed before it committed.
func CabinetMoved(err error) bool {
	var e *Error
	return errors.Is(err, store.ErrCabinetMoved) || errors.As(err, &e) && e.Type == cabinetMoved
}

// NotFound says whether an error is only that what was asked for is not there.
func NotFound(err error) bool { return errors.Is(err, store.ErrNotFound) }

// Temporary says whether an error is of the kind that goes away when one tries again.
func Temporary(err error) bool { return store.Transient(err) }
