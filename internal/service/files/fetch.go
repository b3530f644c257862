package files

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"path"

	"jollydrawer/internal/blobs"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/store"
)

// LargestSheet is the most that a datasheet may have that is fetched, in bytes.
const LargestSheet = 64 << 20

// Fetched is what a link led to. Where it is nothing, Why says so as the rest of a sentence that begins with what was looked for, and Hash is zero.
type Fetched struct {
	Hash store.Hash
	Name string // the last piece of the link's path
	Why  string
}

// Fetch keeps what a link leads to. An error is trouble of the service's own, and says nothing about the link.
func (s *Files) Fetch(ctx context.Context, client *http.Client, link string) (Fetched, error) {
	return s.fetch(ctx, client, link, func(f *Fetched, body io.Reader) error { return s.put(ctx, f, body, s.Limits.Bytes) })
}

// FetchSheet is Fetch of a datasheet: what is no PDF is not kept.
func (s *Files) FetchSheet(ctx context.Context, client *http.Client, link string) (Fetched, error) {
	return s.fetch(ctx, client, link, func(f *Fetched, body io.Reader) error { return s.keepSheet(ctx, f, body) })
}

// KeepSheet keeps a datasheet that is at hand.
func (s *Files) KeepSheet(ctx context.Context, name string, body io.Reader) (Fetched, error) {
	f := Fetched{Name: CleanName(name)}
	return f, s.keepSheet(ctx, &f, body)
}

func (s *Files) fetch(ctx context.Context, client *http.Client, link string, keep func(*Fetched, io.Reader) error) (f Fetched, err error) {
	u, err := url.Parse(link)
	if err != nil {
		return Fetched{Why: "it is no link that can be followed"}, nil
	}
	f.Name = CleanName(path.Base(u.Path))
	if u.Scheme != "http" && u.Scheme != "https" {
		f.Why = fmt.Sprintf("links of the kind %s are not followed", CleanName(u.Scheme))
		return f, nil
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, link, nil)
	if err != nil {
		f.Why = "it is no link that can be followed"
		return f, nil
	}
	res, err := client.Do(req)
	switch {
	case ctx.Err() != nil:
		return f, ctx.Err()
	case errors.Is(err, reach.ErrBarred):
		f.Why = "the address is inside a private network and may not be asked"
		return f, nil
	case err != nil:
		f.Why = "nobody answers there"
		return f, nil
	}
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		f.Why = fmt.Sprintf("the link is dead (the answer is %d)", res.StatusCode)
		return f, nil
	}
	return f, keep(&f, res.Body)
}

// keepSheet keeps a body that begins as a PDF does: its mark stands within the first kilobyte (ISO 32000-1, annex H.3.4.1).
func (s *Files) keepSheet(ctx context.Context, f *Fetched, body io.Reader) error {
	head := make([]byte, 1024)
	n, err := io.ReadFull(body, head)
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case errors.Is(err, io.EOF):
		f.Why = "it leads to nothing"
		return nil
	case err != nil && !errors.Is(err, io.ErrUnexpectedEOF):
		f.Why = "it broke off while it was read"
		return nil
	case !bytes.Contains(head[:n], []byte("%PDF-")):
		f.Why = "what is there is no PDF"
		return nil
	}
	return s.put(ctx, f, io.MultiReader(bytes.NewReader(head[:n]), body), min(LargestSheet, s.Limits.Bytes))
}

func (s *Files) put(ctx context.Context, f *Fetched, body io.Reader, most int64) error {
	hash, size, err := blobs.Put(ctx, s.Store, &sent{Reader: body}, most)
	var off *brokenOff
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case errors.Is(err, blobs.ErrTooLarge):
		f.Why = fmt.Sprintf("it is larger than %d MB", most>>20)
	case errors.As(err, &off):
		f.Why = "it broke off while it was read"
	case err != nil:
		return err
	case size == 0:
		f.Why = "it leads to nothing"
	default:
		f.Hash = hash
	}
	return nil
}

// sent tells trouble of the sender from trouble with keeping.
type sent struct{ io.Reader }

type brokenOff struct{ error }

// Read is io.Reader's.
func (b *sent) Read(p []byte) (int, error) {
	n, err := b.Reader.Read(p)
	if err != nil && !errors.Is(err, io.EOF) {
		err = &brokenOff{err}
	}
	return n, err
}
