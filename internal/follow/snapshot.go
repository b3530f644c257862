package follow

import (
	"bufio"
	"context"
	"os"
	"path/filepath"
	"time"

	"jollydrawer/core/lookup"
)

// snapshotEvery is how often a changed index is written again while the service runs.
const snapshotEvery = 10 * time.Minute

// worthwhile is from how many parts on a snapshot is quicker than loading.
const worthwhile = 5000

// thaw fills the index from the snapshot where one is there that belongs to this database and this cabinet.
func (f *Follower) thaw(ctx context.Context) bool {
	if f.Snapshot == "" || f.CabinetID == nil {
		return false
	}
	file, err := os.Open(f.Snapshot)
	if err != nil {
		return false
	}
	defer file.Close()
	start := time.Now()
	m, err := f.Index.Load(bufio.NewReaderSize(file, 1<<20), func(m lookup.Mark) bool {
		deed, err := f.Store.Read(ctx).FeedDeed(m.Position)
		return err == nil && deed == m.Deed && m.Cabinet == f.CabinetID(ctx)
	})
	if err != nil {
		f.Log.Info("the lookup index is loaded anew", "why", err)
		return false
	}
	f.position.Store(m.Position)
	f.saved = m.Position
	f.Log.Info("the lookup index was read from its snapshot", "parts", f.Index.Len(), "took", time.Since(start).Round(time.Millisecond))
	return true
}

// Freeze writes the snapshot. It is disposable: when it cannot be written, the next start loads the library instead.
func (f *Follower) Freeze(ctx context.Context) {
	if f.Snapshot == "" || f.CabinetID == nil || !f.Ready() || f.Index.Len() < worthwhile {
		return
	}
	at := f.position.Load()
	deed, err := f.Store.Read(ctx).FeedDeed(at)
	if err == nil {
		err = f.write(lookup.Mark{Position: at, Deed: deed, Cabinet: f.CabinetID(ctx)})
	}
	if err != nil {
		f.Log.Warn("writing the snapshot of the lookup index", "error", err)
		return
	}
	f.saved = at
}

func (f *Follower) write(m lookup.Mark) error {
	if err := os.MkdirAll(filepath.Dir(f.Snapshot), 0o755); err != nil {
		return err
	}
	file, err := os.CreateTemp(filepath.Dir(f.Snapshot), "lookup-*")
	if err != nil {
		return err
	}
	defer os.Remove(file.Name())
	w := bufio.NewWriterSize(file, 1<<20)
	if err = f.Index.Save(w, m); err == nil {
		err = w.Flush()
	}
	if e := file.Close(); err == nil {
		err = e
	}
	if err != nil {
		return err
	}
	return os.Rename(file.Name(), f.Snapshot) // the last step: a crash leaves the old one or the new one
}
