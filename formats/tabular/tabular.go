// Package tabular opens any tabular file by what is inside it, not by its name.
package tabular

import (
	"bufio"
	"bytes"
	"errors"
	"io"

	"jollydrawer/formats/delimited"
	"jollydrawer/formats/ipc2581"
	"jollydrawer/formats/objects"
	"jollydrawer/formats/rows"
	"jollydrawer/formats/workbook"
)

type closing struct {
	io.Reader
	io.Closer
}

// Open recognises r and reads it; the returned reader closes r. size is the file's length in bytes.
func Open(r io.ReadCloser, size int64, want rows.Layout, lim rows.Limits) (rows.Reader, error) {
	out, err := open(r, size, want, lim)
	if err != nil {
		r.Close()
		return nil, err
	}
	return out, nil
}

func open(r io.ReadCloser, size int64, want rows.Layout, lim rows.Limits) (rows.Reader, error) {
	return openPlain(r, size, want, lim, true)
}

// openPlain opens a file that may be an archive only where that is said.
func openPlain(r io.ReadCloser, size int64, want rows.Layout, lim rows.Limits, archives bool) (rows.Reader, error) {
	if size == 0 {
		return nil, rows.Errorf("The file is empty.")
	}
	if lim.Bytes > 0 && size > lim.Bytes {
		return nil, rows.Errorf("The file has %d MB; at most %d MB are read. An administrator can raise the limit.", size>>20, lim.Bytes>>20)
	}
	in := bufio.NewReaderSize(r, 4096)
	head, err := in.Peek(4096)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	switch {
	case bytes.HasPrefix(head, []byte("PK\x03\x04")):
		raw, err := io.ReadAll(io.LimitReader(in, size+1))
		if err != nil {
			return nil, err
		}
		if archives && !isWorkbook(raw) {
			return fromArchive(raw, want, lim)
		}
		return workbook.Open(raw, want, lim)
	case bytes.HasPrefix(head, []byte("%PDF")):
		return nil, rows.Errorf("The file is a PDF, not a table: save the table as CSV or XLSX.")
	case bytes.HasPrefix(head, []byte{0xD0, 0xCF, 0x11, 0xE0}):
		return nil, rows.Errorf("The file is a workbook in the old binary form: save it as XLSX and try again.")
	case ipc2581.Is(head):
		return ipc2581.OpenBill(closing{in, r}, want, lim)
	case want.Format == "json" || want.Format == "" && want.Delimiter == "" && isJSON(head):
		return objects.Open(closing{in, r}, lim)
	}
	return delimited.Open(closing{in, r}, want, lim)
}

// isJSON says whether a file begins as JSON does: with an object, or an array of objects.
func isJSON(head []byte) bool {
	head = bytes.TrimLeft(bytes.TrimPrefix(head, []byte("\xEF\xBB\xBF")), " \t\r\n")
	if bytes.HasPrefix(head, []byte("[")) {
		head = bytes.TrimLeft(head[1:], " \t\r\n")
		return bytes.HasPrefix(head, []byte("{")) || bytes.HasPrefix(head, []byte("]"))
	}
	if !bytes.HasPrefix(head, []byte("{")) {
		return false
	}
	head = bytes.TrimLeft(head[1:], " \t\r\n")
	return bytes.HasPrefix(head, []byte("\"")) || bytes.HasPrefix(head, []byte("}"))
}
