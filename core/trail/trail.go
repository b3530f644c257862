// Package trail holds what a record of deeds says: the hash that chains its entries, whether a file of entries is whole, and what an
// entry means in words. Keeping trails is left to others.
package trail

import (
	"bufio"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"
)

// Entry is one entry of a trail as it is exported, a line each. An entry of a thing holds the hash of the one before of that thing.
type Entry struct {
	Head       string    `json:"head" doc:"Identifier of the thing"`
	Kind       string    `json:"kind"`
	Number     string    `json:"number"`
	Seq        int       `json:"seq" doc:"Counts the entries of the thing from 1"`
	Deed       string    `json:"deed"`
	Account    string    `json:"account" doc:"Whose deed it was; zeros stand for the service"`
	By         string    `json:"by"`
	At         time.Time `json:"at"`
	Action     string    `json:"action"`
	Says       string    `json:"says" doc:"The entry as a sentence"`
	Detail     string    `json:"detail" doc:"JSON, as it was hashed"`
	HashBefore string    `json:"hashBefore" doc:"Zeros at the first entry"`
	Hash       string    `json:"hash"`
}

// Sum is the hash of an entry: SHA-256 over what it says, but for names and words that are made of it, a line each. Times are in UTC
// with up to nine digits of a second (RFC 3339).
func Sum(head string, seq int, deed, account string, at time.Time, action, detail, hashBefore string) (out [sha256.Size]byte) {
	h := sha256.New()
	fmt.Fprintf(h, "%s\n%d\n%s\n%s\n%s\n%s\n%s\n%s\n", head, seq, deed, account, at.UTC().Format(time.RFC3339Nano), action, detail, hashBefore)
	h.Sum(out[:0])
	return out
}

// Checked is what a file of entries was found to be.
type Checked struct {
	Entries int      `json:"entries"`
	Things  int      `json:"things"`
	Apart   int      `json:"apart" doc:"Entries whose one before is not in the file, which holds a part of the trail"`
	Wrong   []string `json:"wrong" doc:"Entries that are not as they were written"`
}

// mostWrong is how many wrong entries are named.
const mostWrong = 100

// Check reads a file of entries in JSON Lines, newest or oldest first, and says whether each has the hash that its words make and
// follows from the one before, as far as that one is in the file. What is no entry is an error with its line.
func Check(r io.Reader) (Checked, error) {
	out := Checked{Wrong: []string{}}
	lines := bufio.NewReaderSize(r, 1<<20)
	hashes, before := map[string]string{}, map[string]string{}
	things := map[string]bool{}
	for n := 1; ; n++ {
		line, err := lines.ReadBytes('\n')
		if len(line) > 4<<20 {
			return out, fmt.Errorf("line %d is longer than an entry can be", n)
		}
		if len(line) > 1 {
			var e Entry
			if err := json.Unmarshal(line, &e); err != nil || e.Head == "" || e.Seq < 1 {
				return out, fmt.Errorf("line %d is no entry of a trail", n)
			}
			out.Entries++
			things[e.Head] = true
			sum := Sum(e.Head, e.Seq, e.Deed, e.Account, e.At, e.Action, e.Detail, e.HashBefore)
			if hex.EncodeToString(sum[:]) != e.Hash {
				out.wrong("line %d: %s %s, entry %d: what it says does not have its hash", n, e.Kind, e.Number, e.Seq)
			}
			key := fmt.Sprintf("%s %d", e.Head, e.Seq)
			if _, twice := hashes[key]; twice {
				out.wrong("line %d: %s %s, entry %d stands twice", n, e.Kind, e.Number, e.Seq)
			}
			hashes[key], before[key] = e.Hash, e.HashBefore
			if e.Seq == 1 && e.HashBefore != zeros {
				out.wrong("line %d: %s %s, entry 1 follows from another", n, e.Kind, e.Number)
			}
		}
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return out, err
		}
	}
	out.Things = len(things)
	for key, want := range before {
		var head string
		var seq int
		if _, err := fmt.Sscan(key, &head, &seq); err != nil || seq == 1 {
			continue
		}
		switch have, ok := hashes[fmt.Sprintf("%s %d", head, seq-1)]; {
		case !ok:
			out.Apart++
		case have != want:
			out.wrong("%s, entry %d does not follow from entry %d", head, seq, seq-1)
		}
	}
	return out, nil
}

const zeros = "0000000000000000000000000000000000000000000000000000000000000000"

func (c *Checked) wrong(format string, args ...any) {
	if len(c.Wrong) < mostWrong {
		c.Wrong = append(c.Wrong, fmt.Sprintf(format, args...))
	}
}

// Change is one field before and after.
type Change struct {
	What   string `json:"what"`
	Before string `json:"before,omitempty"`
	After  string `json:"after,omitempty"`
}

// Changes reads from an entry's detail which fields it changed.
func Changes(detail string) (out []Change) {
	var d struct {
		Changes []struct{ Path, Old, New string } `json:"changes"`
	}
	if json.Unmarshal([]byte(detail), &d) != nil {
		return nil
	}
	for _, c := range d.Changes {
		out = append(out, Change{strings.TrimPrefix(c.Path, "values."), c.Old, c.New})
	}
	return out
}

// Says is an entry as a sentence.
func Says(by, kind, number, action, detail string) string {
	a := Act{Kind: kind, Action: action, Count: 1, Name: number}
	_ = json.Unmarshal([]byte(detail), &a.Detail) // what is none says nothing
	return Sentence(by, []Act{a})
}
