package intake

import (
	"bufio"
	"crypto/sha256"
	"encoding/binary"
	"fmt"
)

// Digest covers everything that taking in would do, so that what is taken in is what was looked at.
func (r *Result) Digest() (out [16]byte) {
	sum := sha256.New()
	h := bufio.NewWriterSize(sum, 1<<16)
	for i := range r.readings {
		text(h, string(r.readings[i].value.Type))
		text(h, r.readings[i].value.String())
	}
	var b []byte
	for i := range r.Candidates {
		c := &r.Candidates[i]
		for _, s := range []string{string(c.State), c.Number, c.Existing, c.Drawer, c.source.Manufacturer, c.source.MPN, c.description, c.Reason, r.in.Fetched[c.Datasheet].File.Hash} {
			text(h, s)
		}
		b = binary.BigEndian.AppendUint64(b[:0], uint64(c.Row)<<32|uint64(uint32(c.Version)))
		b = binary.BigEndian.AppendUint32(b, uint32(c.Joins))
		for _, v := range c.vals {
			b = binary.BigEndian.AppendUint16(b, v.slot)
			b = binary.BigEndian.AppendUint32(b, v.reading)
		}
		_, _ = h.Write(b)
		for _, m := range r.models(c) {
			if m != nil {
				fmt.Fprintf(h, "%s@%d", m.ID, m.Revision)
			}
		}
		for _, n := range c.source.Numbers {
			text(h, n.Number)
		}
		for _, ch := range c.Changes {
			fmt.Fprintf(h, "%q%q%q", ch.Key, ch.Old, ch.New)
		}
	}
	_ = h.Flush() // a hash takes all
	copy(out[:], sum.Sum(nil))
	return out
}

func text(h *bufio.Writer, s string) {
	_, _ = h.WriteString(s)
	_ = h.WriteByte(0)
}
