package testdb

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"syscall"

	"jollydrawer/internal/dbserver"
)

// memory is a file system in memory, where the system has one.
const memory = "/dev/shm"

// room is how much of it must be free, in bytes: a server's own files, and the schemas of as many tests as run at a time.
const room = 3 << 30

// Place is the folder in which servers for tests keep their data: in memory where there is room. A schema is some 70 files that are
// made and removed with each test, and a disk that is shared with others takes up to a second for that. What is written there
// outlives a killed server as it does in the files of a disk.
func Place() string {
	var fs syscall.Statfs_t
	if err := syscall.Statfs(memory, &fs); err == nil && int64(fs.Bavail)*fs.Bsize >= room && syscall.Access(memory, 7) == nil {
		return memory
	}
	return os.TempDir()
}

// folder is where the tests of one go test, the process that started this one, keep their server.
func folder(place string, pid int) string { return filepath.Join(place, fmt.Sprintf("jt-%d", pid)) }

// Own makes a folder for the servers of one process alone; leave removes it. When the process is killed, the next tests do.
func Own() (dir string, leave func(), err error) {
	place := Place()
	sweep(context.Background(), place)
	dir = folder(place, os.Getpid())
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return "", nil, err
	}
	inside, err := hold(dir)
	if err != nil {
		return "", nil, err
	}
	return dir, func() {
		_ = os.RemoveAll(dir)
		inside.Close()
	}, nil
}

// hold says that a process is at work in a folder.
func hold(dir string) (*os.File, error) {
	inside, err := os.OpenFile(filepath.Join(dir, "inside"), os.O_CREATE|os.O_RDWR, 0o600)
	if err == nil {
		err = syscall.Flock(int(inside.Fd()), syscall.LOCK_SH)
	}
	return inside, err
}

// sweep stops and removes servers in a place whose tests are gone: these were killed.
func sweep(ctx context.Context, place string) {
	all, _ := filepath.Glob(filepath.Join(place, "jt-*"))
	for _, dir := range all {
		var pid int
		if _, err := fmt.Sscanf(filepath.Base(dir), "jt-%d", &pid); err != nil || dir != folder(place, pid) || syscall.Kill(pid, 0) == nil {
			continue
		}
		f, err := os.OpenFile(filepath.Join(dir, "inside"), os.O_RDWR, 0)
		if err == nil && syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB) != nil { // one of its tests is still at work
			f.Close()
			continue
		}
		if s, err := dbserver.Join(ctx, filepath.Join(dir, "db")); err == nil {
			s.Stop()
		}
		_ = os.RemoveAll(dir)
		_ = os.Remove(dir + ".gate")
		if f != nil {
			f.Close()
		}
	}
}
