package service

import (
	"jollydrawer/core/intake"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/store"
)

// What the doors of the service need of lower layers, under names of its own, so that they need not reach past it.
type (
	// ID identifies a stored thing, a deed or a request.
	ID = store.ID
	// Query is a question to the lookup index.
	Query = lookup.Query
	// Order is a column to sort by.
	Order = lookup.Order
	// NewChoice is a choice to be added to a parameter.
	NewChoice = intake.NewChoice

	lookupEntry = lookup.Entry
)

// ParseID reads the text form of an ID.
func ParseID(s string) (ID, error) { return store.ParseID(s) }

// NewID returns a fresh ID.
func NewID() ID { return store.NewID() }

// Temporary says whether an error is of the kind that goes away when one tries again.
func Temporary(err error) bool { return store.Transient(err) }
