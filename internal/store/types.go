package store

import (
	"crypto/sha256"
	"database/sql/driver"
	"encoding/hex"
	"errors"
	"fmt"

	"github.com/google/uuid"
)

// ID is a UUID kept as BINARY(16). The zero ID stands for NULL.
type ID [16]byte

// ParseID reads the usual text form.
func ParseID(s string) (ID, error) {
	u, err := uuid.Parse(s)
	if err != nil || len(s) != 36 {
		return ID{}, fmt.Errorf("%q is no identifier", s)
	}
	return ID(u), nil
}

// NewID returns a fresh UUIDv7: identifiers made later sort later, which keeps primary keys compact.
func NewID() ID { return ID(uuid.Must(uuid.NewV7())) }

func (i ID) String() string { return uuid.UUID(i).String() }

// IsZero says whether i stands for nothing.
func (i ID) IsZero() bool { return i == ID{} }

// MarshalText writes the text form.
func (i ID) MarshalText() ([]byte, error) { return []byte(i.String()), nil }

// UnmarshalText reads the text form.
func (i *ID) UnmarshalText(b []byte) (err error) { *i, err = ParseID(string(b)); return err }

// Value gives the bytes to the database.
func (i ID) Value() (driver.Value, error) {
	if i.IsZero() {
		return nil, nil
	}
	return i[:], nil
}

// Scan takes the bytes from the database.
func (i *ID) Scan(v any) error { return scanFixed(i[:], v) }

// Hash is a SHA-256 kept as BINARY(32). The zero Hash stands for NULL.
type Hash [sha256.Size]byte

// ParseHash reads the hexadecimal form.
func ParseHash(s string) (h Hash, err error) {
	b, err := hex.DecodeString(s)
	if err != nil || len(b) != len(h) {
		return h, fmt.Errorf("%q is no SHA-256 hash", s)
	}
	copy(h[:], b)
	return h, nil
}

func (h Hash) String() string { return hex.EncodeToString(h[:]) }

// IsZero says whether h stands for nothing.
func (h Hash) IsZero() bool { return h == Hash{} }

// Value gives the bytes to the database.
func (h Hash) Value() (driver.Value, error) {
	if h.IsZero() {
		return nil, nil
	}
	return h[:], nil
}

// Scan takes the bytes from the database.
func (h *Hash) Scan(v any) error { return scanFixed(h[:], v) }

func scanFixed(into []byte, v any) error {
	clear(into)
	switch v := v.(type) {
	case nil:
		return nil
	case []byte:
		if len(v) == len(into) {
			copy(into, v)
			return nil
		}
	}
	return errors.New("store: a fixed-length key has the wrong length")
}
