package workbook

import (
	"archive/zip"
	"bytes"
	"io"
	"math"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"
)

// exact gives a cell's text without the rounding that its format does for showing: a number with all of its digits and
// the unit that the format adds, a percentage, a date as 2006-01-02. raw is what the file keeps, shown what a person
// sees.
func exact(raw, shown string, from1904 bool) string {
	if raw == shown || raw == "" {
		return shown
	}
	f, err := strconv.ParseFloat(raw, 64)
	if err != nil || math.IsInf(f, 0) || math.IsNaN(f) {
		return shown
	}
	plain := strings.TrimSpace(shown)
	if strings.HasSuffix(plain, "%") {
		return digits(f*100) + "%"
	}
	number := strings.NewReplacer(",", "", "\u00a0", "", " ", "", "'", "").Replace(plain)
	k := len(number)
	for k > 0 {
		if v, err := strconv.ParseFloat(number[:k], 64); err == nil {
			if !near(v, f, number[:k]) {
				break
			}
			if at := strings.LastIndexAny(plain, "0123456789."); at >= 0 && k < len(number) {
				return strings.TrimSpace(digits(f) + plain[at+1:])
			}
			return digits(f)
		}
		k--
	}
	t, err := excelize.ExcelDateToTime(f, from1904)
	if err != nil || f < 1 || !strings.ContainsAny(plain, "-/:. ") {
		return shown
	}
	if t.Hour() == 0 && t.Minute() == 0 && t.Second() == 0 {
		return t.Format("2006-01-02")
	}
	return t.Format("2006-01-02 15:04:05")
}

// near says whether a number that is shown with some decimals is f, rounded.
func near(shown, f float64, text string) bool {
	_, decimals, _ := strings.Cut(text, ".")
	return math.Abs(shown-f) <= 0.5000001*math.Pow(10, -float64(len(decimals)))
}

// digits writes a number with the fifteen digits that a workbook's numbers have, without an exponent.
func digits(f float64) string {
	s := strconv.FormatFloat(f, 'g', 15, 64)
	v, err := strconv.ParseFloat(s, 64)
	if err != nil {
		return s
	}
	return strconv.FormatFloat(v, 'f', -1, 64)
}

// mergedAbove fills blanks of a header row from the rows above it: a name that spans two rows is written in the first.
func mergedAbove(sample [][]string, at int) []string {
	header := append([]string{}, sample[at]...)
	for up := at - 1; up >= max(0, at-2); up-- {
		filled := 0
		for _, c := range sample[up] {
			if strings.TrimSpace(c) != "" {
				filled++
			}
		}
		if filled < 2 { // a title
			break
		}
		for i, c := range sample[up] {
			for i >= len(header) {
				header = append(header, "")
			}
			if strings.TrimSpace(header[i]) == "" {
				header[i] = c
			}
		}
	}
	return header
}

// hasFormulas looks into the sheets for cells that are computed.
func hasFormulas(raw []byte) bool {
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return false
	}
	for _, f := range z.File {
		if !strings.HasPrefix(f.Name, "xl/worksheets/sheet") {
			continue
		}
		r, err := f.Open()
		if err != nil {
			continue
		}
		head, _ := io.ReadAll(io.LimitReader(r, 1<<20))
		r.Close()
		if bytes.Contains(head, []byte("<f>")) || bytes.Contains(head, []byte("<f ")) {
			return true
		}
	}
	return false
}
