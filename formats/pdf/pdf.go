// Package pdf reads the text of PDF files (ISO 32000-1) by pdftotext, a program of Debian's poppler-utils, in a process of its own that
// may use only so much memory and time: files come from outside, and a hostile one ends that process and nothing else. It draws nothing
// and recognises no letters in pictures: a file that was scanned has no text.
package pdf

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os/exec"
	"strings"
	"time"
	"unicode/utf8"
)

// What one file may cost. A series' datasheet has some dozens of pages and some hundred kilobytes of text.
const (
	maxPages  = 400
	maxText   = 4 << 20 // bytes of text that are kept
	maxSecond = 20      // of a processor
	maxMemory = 1 << 20 // kilobytes of address space
)

// ErrNoReader is returned where pdftotext is not installed.
var ErrNoReader = errors.New("the text of PDF files is not read here: pdftotext is not installed (Debian's package poppler-utils)")

// Text returns the text of a PDF file, page by page, as it stands on the page: lines as lines, columns parted by blanks. A file without
// text gives pages without any. err says in words what is wrong with the file.
func Text(ctx context.Context, file io.Reader) (pages []string, err error) {
	reader, err := exec.LookPath("pdftotext")
	if err != nil {
		return nil, ErrNoReader
	}
	ctx, cancel := context.WithTimeout(ctx, 3*maxSecond*time.Second)
	defer cancel()
	limits := fmt.Sprintf("ulimit -t %d -v %d; exec \"$0\" -q -layout -enc UTF-8 -l %d - -", maxSecond, maxMemory, maxPages)
	cmd := exec.CommandContext(ctx, "/bin/sh", "-c", limits, reader)
	cmd.Stdin = file
	cmd.Env = []string{"LC_ALL=C.UTF-8"}
	cmd.WaitDelay = 2 * time.Second
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := cmd.Start(); err != nil {
		return nil, fmt.Errorf("starting pdftotext: %w", err)
	}
	raw, readErr := io.ReadAll(io.LimitReader(out, maxText))
	_, _ = io.Copy(io.Discard, out) // or it waits for somebody to read the rest
	err = cmd.Wait()
	switch {
	case ctx.Err() != nil:
		return nil, errors.New("its text takes too long to read")
	case err != nil:
		return nil, errors.New("its text cannot be read: the file is damaged, locked or larger than is looked at")
	case readErr != nil:
		return nil, readErr
	}
	text := strings.ToValidUTF8(string(raw), string(utf8.RuneError))
	pages = strings.Split(text, "\f")
	if n := len(pages); n > 1 && strings.TrimSpace(pages[n-1]) == "" { // a form feed ends each page
		pages = pages[:n-1]
	}
	return pages, nil
}
