package lookup

import (
	"bytes"
	"hash/maphash"
	"sort"
	"strings"
)

// arena keeps many short texts in one block of memory: a slice of a million strings would cost three times as much.
type arena struct {
	bytes []byte   // every text with a line break behind it
	fold  []byte   // the same in capitals, byte for byte; nil while bytes holds no small letter
	at    []uint32 // where each text begins
	plain bool     // nobody looks into the texts, so that no capitals are kept
}

func (a *arena) add(s string) uint32 {
	i := uint32(len(a.at))
	a.at = append(a.at, uint32(len(a.bytes)))
	from := len(a.bytes)
	a.bytes = append(append(a.bytes, s...), '\n')
	lower := false
	for k := range len(s) {
		lower = lower || s[k] >= 'a' && s[k] <= 'z'
	}
	if a.plain || a.fold == nil && !lower {
		return i
	}
	if a.fold == nil {
		a.fold = append(make([]byte, 0, cap(a.bytes)), a.bytes[:from]...)
	}
	a.fold = append(a.fold, a.bytes[from:]...)
	capitals(a.fold[from:])
	return i
}

// capitals turns the letters of ASCII into capitals; the length stays.
func capitals(b []byte) {
	for k, c := range b {
		if c >= 'a' && c <= 'z' {
			b[k] = c - 0x20
		}
	}
}

func (a *arena) get(i uint32) string { return string(a.raw(i)) }

func (a *arena) raw(i uint32) []byte {
	to := len(a.bytes)
	if int(i)+1 < len(a.at) {
		to = int(a.at[i+1])
	}
	return a.bytes[a.at[i] : to-1]
}

// containing calls each with every text that contains word, which is in capitals. Going through one long block is
// quicker than any list of substrings would be to keep.
func (a *arena) containing(word string, each func(i uint32)) {
	block := a.fold
	if block == nil {
		block = a.bytes
	}
	needle := []byte(word)
	for at := 0; at < len(block); {
		k := bytes.Index(block[at:], needle)
		if k < 0 {
			return
		}
		i := sort.Search(len(a.at), func(i int) bool { return int(a.at[i]) > at+k }) - 1
		each(uint32(i))
		if i+1 == len(a.at) {
			return
		}
		at = int(a.at[i+1])
	}
}

// chains find rows by the hash of a key: eight bytes a row, and several rows may share a key. What a row's key is,
// the caller compares.
type chains struct {
	heads []uint32 // by hash: row + 1
	next  []uint32 // by row: the next row + 1 of the same hash
	keys  []uint32 // by row: the hash, to spare comparing
}

var seed = maphash.MakeSeed()

func hashOf(key string) uint32 { return uint32(maphash.String(seed, key)) }

// add puts the next row under a key's hash.
func (c *chains) add(hash uint32) {
	if len(c.keys) >= len(c.heads) {
		c.heads = make([]uint32, max(64, 2*len(c.heads)))
		for i, h := range c.keys {
			k := h & uint32(len(c.heads)-1)
			c.next[i], c.heads[k] = c.heads[k], uint32(i)+1
		}
	}
	k := hash & uint32(len(c.heads)-1)
	c.keys = append(c.keys, hash)
	c.next = append(c.next, c.heads[k])
	c.heads[k] = uint32(len(c.keys))
}

// each calls f with the rows under a key, the newest first, until it returns false.
func (c *chains) each(key string, f func(row uint32) bool) {
	if len(c.heads) == 0 {
		return
	}
	h := hashOf(key)
	for i := c.heads[h&uint32(len(c.heads)-1)]; i != 0; i = c.next[i-1] {
		if c.keys[i-1] == h && !f(i-1) {
			return
		}
	}
}

// bitset is a set of rows of one shelf.
type bitset []uint64

func newBits(n int) bitset { return make(bitset, (n+63)/64) }

func (b bitset) set(i uint32)      { b[i>>6] |= 1 << (i & 63) }
func (b bitset) clear(i uint32)    { b[i>>6] &^= 1 << (i & 63) }
func (b bitset) has(i uint32) bool { return b[i>>6]&(1<<(i&63)) != 0 }

func (b bitset) and(o bitset) {
	for i := range b {
		b[i] &= o[i]
	}
}

func (b bitset) andNot(o bitset) {
	for i := range b {
		b[i] &^= o[i]
	}
}

// wordsOf parts a text into the words that a query can hit.
func wordsOf(s string) []string {
	return strings.FieldsFunc(strings.ToUpper(s), func(r rune) bool {
		return r == ' ' || r == ',' || r == ';' || r == '\n' || r == '\t' || r == '(' || r == ')' || r == 0 || r == '"'
	})
}
