package main

import (
	"crypto/rand"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"jollydrawer/internal/config"
)

// installationKey reads the key that keys for signing come from. One that is not there is made, and kept where only the owner reads it;
// two instances that do so at once end with the same.
func installationKey(set config.Settings) ([]byte, error) {
	path := set.KeyFile
	if path == "" {
		path = filepath.Join(set.Data, "key.txt")
	}
	raw, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			return nil, fmt.Errorf("the folder of the key file %s cannot be made: %w", path, err)
		}
		fresh, err := os.CreateTemp(filepath.Dir(path), ".key")
		if err != nil {
			return nil, fmt.Errorf("the key file %s cannot be written: %w", path, err)
		}
		defer os.Remove(fresh.Name())
		_, err = fresh.WriteString(rand.Text() + rand.Text() + "\n")
		if err = errors.Join(err, fresh.Close()); err == nil {
			err = os.Link(fresh.Name(), path)
		}
		if err != nil && !errors.Is(err, fs.ErrExist) {
			return nil, fmt.Errorf("the key file %s cannot be written: %w", path, err)
		}
		raw, err = os.ReadFile(path)
		if err != nil {
			return nil, fmt.Errorf("the key file %s cannot be read: %w", path, err)
		}
	} else if err != nil {
		return nil, fmt.Errorf("the key file %s cannot be read: %w", path, err)
	}
	key := strings.TrimSpace(string(raw))
	if len(key) < 32 {
		return nil, fmt.Errorf("the key file %s holds less than 32 letters: write at least so many by chance, or remove it and let one be made", path)
	}
	return []byte(key), nil
}
