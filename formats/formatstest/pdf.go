package formatstest

import (
	"bytes"
	"fmt"
	"strings"
)

// PDF is a file of pages of lines (ISO 32000-1, 7.5), the least that a reader needs.
func PDF(pages ...[]string) []byte {
	var b bytes.Buffer
	var at []int
	object := func(text string) {
		at = append(at, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n%s\nendobj\n", len(at), text)
	}
	b.WriteString("%PDF-1.4\n")
	object("<< /Type /Catalog /Pages 2 0 R >>")
	var kids []string
	for n := range pages {
		kids = append(kids, fmt.Sprintf("%d 0 R", 4+2*n))
	}
	object(fmt.Sprintf("<< /Type /Pages /Kids [%s] /Count %d >>", strings.Join(kids, " "), len(pages)))
	object("<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>")
	for n, lines := range pages {
		object(fmt.Sprintf("<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Resources << /Font << /F1 3 0 R >> >> /Contents %d 0 R >>", 5+2*n))
		var s strings.Builder
		s.WriteString("BT /F1 11 Tf 60 780 Td 14 TL\n")
		for _, l := range lines {
			fmt.Fprintf(&s, "(%s) Tj T*\n", l)
		}
		s.WriteString("ET")
		object(fmt.Sprintf("<< /Length %d >>\nstream\n%s\nendstream", s.Len(), s.String()))
	}
	xref := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(at)+1)
	for _, o := range at {
		fmt.Fprintf(&b, "%010d 00000 n \n", o)
	}
	fmt.Fprintf(&b, "trailer << /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n", len(at)+1, xref)
	return b.Bytes()
}
