package delimited

import (
	"io"
	"testing"

	"jollydrawer/formats/formatstest"
	"jollydrawer/formats/rows"
)

const good = "Maker;MPN;Value;Text\r\nTidewright;TW-1;4,7 kΩ;\"a \"\"small\"\" one; of two\r\nlines\"\r\nKelpline;KL-2;100 nF;\r\n;;;\r\nLumen Farm;LF-3;red;0603\r\n"

func TestReaderKeepsWhatAllReadersKeep(t *testing.T) {
	open := func(r io.ReadCloser, lim rows.Limits) (rows.Reader, error) { return Open(r, rows.Layout{}, lim) }
	formatstest.Test(t, formatstest.Reader{Good: []byte(good), Want: []string{"Maker|MPN|Value|Text", "Tidewright|TW-1|4,7 kΩ|a \"small\" one; of two\nlines", "Kelpline|KL-2|100 nF|", "Lumen Farm|LF-3|red|0603"},
		Read: formatstest.Rows(open, rows.DefaultLimits)})
	formatstest.Limits(t, open, []byte("A,B,C,D,E\nsomething long,2,3,4,5\n1,2,3,4,5\n1,2,3,4,5\n"))
}
