// Package paper lays a table on pages, as PDF (ISO 32000): for a meeting, to be read, marked and signed. Headings stand on each page; a cell that is too long goes on in
// further lines, and nothing is cut off.
package paper

import (
	"fmt"
	"io"
	"strings"
	"time"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"
)

// Sheet is what is laid on pages.
type Sheet struct {
	Title  string
	Says   []string   // lines under the title: of what, when, by whom
	Table  [][]string // with its headings
	Widths []float64  // of its columns, in parts of the page; none: by what stands in them
	Right  map[int]bool
	Made   time.Time // kept in the file, so that the same sheet is the same bytes
}

// Measures of a page, in millimetres, and of its letters, in points.
const (
	width, height = 297.0, 210.0 // A4, lying
	margin        = 12.0
	line          = 4.2
	letters       = 8.0
	smallest      = 6.0
	around        = 3.0 // of a text in its cell
	inner         = 0.6
	most          = 40 // lines of one cell on a page
)

// regular tells which characters the font has.
var regular = func() *sfnt.Font {
	f, err := sfnt.Parse(goregular.TTF)
	if err != nil {
		panic(err) // it is part of the program
	}
	return f
}()

// legible writes a text with the characters that the font has; others become a question mark in a box, and are not left out.
func legible(text string) string {
	var b sfnt.Buffer
	return strings.Map(func(r rune) rune {
		if r == '\n' || r == '\r' || r == '\t' {
			return ' '
		}
		if i, err := regular.GlyphIndex(&b, r); err != nil || i == 0 || r < ' ' {
			return '□'
		}
		return r
	}, text)
}

// Write lays a sheet on as many pages as it takes.
func Write(w io.Writer, s Sheet) error {
	p := fpdf.New("L", "mm", "A4", "")
	p.SetCreationDate(s.Made)
	p.SetModificationDate(s.Made)
	p.SetCatalogSort(true)
	p.SetTitle(s.Title, true)
	p.SetLang("en")
	p.AddUTF8FontFromBytes("go", "", goregular.TTF)
	p.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	p.SetMargins(margin, margin, margin)
	p.SetAutoPageBreak(false, margin)
	p.SetCellMargin(inner)
	p.AliasNbPages("{all}")
	d := drawing{pdf: p, sheet: s}
	p.SetFooterFunc(func() {
		p.SetFont("go", "", 7)
		p.SetXY(margin, height-9)
		p.CellFormat(width-2*margin, 4, fmt.Sprintf("%s · page %d of {all}", legible(s.Title), p.PageNo()), "", 0, "L", false, 0, "")
	})
	if len(s.Table) == 0 {
		s.Table = [][]string{{""}}
		d.sheet = s
	}
	d.measure()
	p.AddPage()
	d.head()
	d.headings()
	for _, row := range s.Table[1:] {
		d.row(row)
	}
	if len(s.Table) == 1 {
		p.SetFont("go", "", letters)
		p.CellFormat(0, 8, "Nothing is on it.", "", 1, "L", false, 0, "")
	}
	return p.Output(w)
}

type drawing struct {
	pdf     *fpdf.Fpdf
	sheet   Sheet
	widths  []float64 // in millimetres
	letters float64
}

// measure shares the page among the columns: by the longest words and the usual length of what stands in them.
func (d *drawing) measure() {
	head := d.sheet.Table[0]
	parts := d.sheet.Widths
	if len(parts) != len(head) {
		parts = make([]float64, len(head))
		for i := range head {
			sum, n := len([]rune(head[i]))*2, 2
			for _, row := range d.sheet.Table[1:min(len(d.sheet.Table), 200)] {
				if i < len(row) {
					sum, n = sum+len([]rune(row[i])), n+1
				}
			}
			parts[i] = min(max(float64(sum)/float64(n), 5), 40)
		}
	}
	least := make([]float64, len(parts))
	for d.letters = letters; ; d.letters -= 0.5 { // smaller letters rather than broken headings
		all := 0.0
		d.pdf.SetFont("go", "B", d.letters)
		for i, h := range head {
			least[i] = 0
			for _, word := range strings.Fields(legible(h)) {
				least[i] = max(least[i], d.pdf.GetStringWidth(word)+around)
			}
			if d.sheet.Right[i] { // a number is not broken
				for _, row := range d.sheet.Table[1:] {
					if i < len(row) && len(row[i]) < 20 {
						least[i] = max(least[i], d.pdf.GetStringWidth(row[i])+around)
					}
				}
			}
			all += least[i]
		}
		room := width - 2*margin
		if all > room && d.letters > smallest {
			continue
		}
		d.widths = shared(room, parts, least)
		return
	}
}

// shared shares room among columns by their parts, so that each has at least what it must, as far as there is room for that.
func shared(room float64, parts, least []float64) []float64 {
	out, held := make([]float64, len(parts)), make([]bool, len(parts))
	for {
		left, total, again := room, 0.0, false
		for i := range parts {
			if held[i] {
				left -= least[i]
			} else {
				total += parts[i]
			}
		}
		for i, p := range parts {
			switch {
			case held[i]:
				out[i] = least[i]
			case left <= 0 || left*p/total < least[i]:
				held[i], again = true, true
			default:
				out[i] = left * p / total
			}
		}
		if !again {
			break
		}
	}
	sum := 0.0
	for _, w := range out {
		sum += w
	}
	if sum > room {
		for i := range out {
			out[i] *= room / sum
		}
	}
	return out
}

// head writes the title, and what stands under it.
func (d *drawing) head() {
	d.pdf.SetFont("go", "B", 14)
	d.pdf.MultiCell(width-2*margin, 7, legible(d.sheet.Title), "", "L", false)
	d.pdf.SetFont("go", "", 9)
	for _, l := range d.sheet.Says {
		d.pdf.MultiCell(width-2*margin, 4.6, legible(l), "", "L", false)
	}
	d.pdf.Ln(2)
}

func (d *drawing) headings() {
	d.pdf.SetFont("go", "B", d.letters)
	d.pdf.SetFillColor(228, 236, 236)
	d.put(d.sheet.Table[0], true)
	d.pdf.SetFont("go", "", d.letters)
}

// row writes a row, on the next page where it does not fit on this one, and on several where it is longer than one.
func (d *drawing) row(cells []string) {
	d.pdf.SetFont("go", "", d.letters)
	d.put(cells, false)
}

func (d *drawing) put(cells []string, heading bool) {
	lines := make([][]string, len(d.widths))
	for i := range d.widths {
		if i < len(cells) {
			lines[i] = d.pdf.SplitText(legible(cells[i]), d.widths[i]-around+2*inner+0.2)
		}
	}
	for first := true; ; first = false {
		deep, more := 1, false
		room := int((height - margin - 6 - d.pdf.GetY()) / line)
		if !heading && (room < 1 || first && room < min(deepest(lines), most)) && d.pdf.GetY() > margin+line*3 {
			d.pdf.AddPage()
			d.headings()
			room = int((height - margin - 6 - d.pdf.GetY()) / line)
		}
		y := d.pdf.GetY()
		for i := range lines {
			deep = max(deep, min(len(lines[i]), max(1, room)))
		}
		x := margin
		for i, w := range d.widths {
			style := "T"
			d.pdf.SetXY(x, y)
			d.pdf.CellFormat(w, line*float64(deep)+0.8, "", style, 0, "L", heading, 0, "")
			align := "L"
			if d.sheet.Right[i] {
				align = "R"
			}
			for k := 0; k < min(deep, len(lines[i])); k++ {
				d.pdf.SetXY(x, y+0.4+line*float64(k))
				d.pdf.CellFormat(w, line, lines[i][k], "", 0, align, false, 0, "")
			}
			lines[i] = lines[i][min(deep, len(lines[i])):]
			more = more || len(lines[i]) > 0
			x += w
		}
		d.pdf.SetXY(margin, y+line*float64(deep)+0.8)
		if !more {
			return
		}
	}
}

func deepest(lines [][]string) (n int) {
	for _, l := range lines {
		n = max(n, len(l))
	}
	return n
}
