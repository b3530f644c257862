package e2e

import (
	"bytes"
	"sync"
)

// watched is a buffer that may be read while a process writes to it.
type watched struct {
	mu sync.Mutex
	b  bytes.Buffer
}

func (w *watched) Write(p []byte) (int, error) {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.b.Write(p)
}

func (w *watched) String() string {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.b.String()
}
