package lookup

import (
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
)

// Columns of every shelf beside its parameters.
const (
	colMaker    = "manufacturer"
	colStatus   = "status"
	colStanding = "standing"
	colMissing  = "missing"
	colUse      = "@use" // no parameter has such a key
	colFlag     = "@flag"
	colLabel    = "@label"
)

// several joins the members of a set into one value: a part's manufacturers, what it lacks, or its status and that of the draft beside it.
const several = "\x00"

type cell struct {
	key   string
	value uint32
}

func (x *Index) cells(e *Entry) []cell {
	text := func(key, s string) cell { return cell{key, x.vals.number(cabinet.Value{Type: cabinet.Text, Text: s})} }
	out := make([]cell, 0, len(e.values)+4)
	for _, v := range e.values {
		out = append(out, cell{v.key, x.vals.number(*v.value)})
	}
	var makers []string
	for _, s := range e.Sources {
		if !slices.Contains(makers, s.Manufacturer) {
			makers = append(makers, s.Manufacturer)
		}
	}
	status := string(e.Status)
	if e.HasDraft && e.Status != lifecycle.Draft { // who looks for drafts looks for what is being worked on
		status += several + string(lifecycle.Draft)
	}
	out = append(out, text(colStatus, status), text(colStanding, string(e.Standing)))
	for key, s := range map[string]string{colUse: string(e.Use), colFlag: e.Flag, colLabel: e.Label} {
		if s != "" { // of most parts there is nothing to say
			out = append(out, text(key, s))
		}
	}
	if len(makers) > 0 {
		out = append(out, text(colMaker, strings.Join(makers, several)))
	}
	if len(e.Missing) > 0 {
		out = append(out, text(colMissing, strings.Join(e.Missing, several)))
	}
	return out
}

func (x *Index) name(s string) uint32 {
	if i, ok := x.nameAt[s]; ok {
		return i
	}
	s = strings.Clone(s)
	i := uint32(len(x.names))
	x.names = append(x.names, s)
	x.nameAt[s] = i
	return i
}

// splitNumber parts a number into what stands before its counter and the counter, so that R-9 sorts before R-10.
func (x *Index) splitNumber(number string) (head, counter uint32) {
	k := len(number)
	for k > 0 && number[k-1] >= '0' && number[k-1] <= '9' && len(number)-k < 9 {
		k--
	}
	n, _ := strconv.ParseUint(number[k:], 10, 32)
	h := number[:k]
	at, ok := x.headAt[h]
	if !ok {
		h = strings.Clone(h)
		at = uint32(len(x.heads))
		x.heads = append(x.heads, h)
		x.headAt[h] = at
		x.headRank = nil
	}
	return at, uint32(n)
}
