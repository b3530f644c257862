package deed

import (
	"crypto/sha256"
	"encoding/hex"

	"jollydrawer/internal/store"
)

// ID identifies a stored thing, a deed or a request.
type ID = store.ID

// ParseID reads the text form of an ID.
func ParseID(s string) (ID, error) { return store.ParseID(s) }

// NewID returns a fresh ID.
func NewID() ID { return store.NewID() }

// ShortName stands for a text of any length, exactly, where a name is short and compared without accents.
func ShortName(text string) string {
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:16])
}
