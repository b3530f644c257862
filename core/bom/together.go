package bom

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"jollydrawer/core/headings"
)

// Design tools write a file for each variant of a board. Put together they are one BOM, whose lines say in which variants they are: what all files have in common stands once,
// and is decided once.

// VariantFile is a BOM of one variant of a board, as its file was read.
type VariantFile struct {
	Variant string
	Columns Columns
	Lines   []Line
}

// The cells of the columns that tell the variants of files that were put together.
const (
	inIt    = "fitted"
	notInIt = "not fitted"
)

// Together puts the files of a board's variants together as one table, whose last columns say of each variant whether a row is in it. The columns of the first file come first, then
// those that only others have; a row is one of a file, or as much of it as is in the same variants: its designators, and their number where its quantity is that. Remarks and
// what is not used keep no rows apart, such as numbers of items that are others in each file: where they differ, each stands with its variants. Rows stand in the order of the
// first file that has them. Fails where nobody could tell afterwards which lines are in which variant.
func Together(files []VariantFile) (header []string, rows [][]string, err error) {
	if err := variantsApart(files); err != nil {
		return nil, nil, err
	}
	header, places, fits := headingsTogether(files)
	t := merging{at: map[string]*share{}, fits: fits}
	for k := range files {
		t.take(k, &files[k], places[k], len(header))
	}
	for k := range files {
		header = append(header, "In "+files[k].Variant)
	}
	return header, t.rows(files), nil
}

// variantsApart says why files cannot be put together by their variants.
func variantsApart(files []VariantFile) error {
	if len(files) < 2 || len(files) > mostVariants {
		return fmt.Errorf("a board is put together of the files of 2 to %d variants", mostVariants)
	}
	for k, f := range files {
		switch i := slices.IndexFunc(files[:k], func(o VariantFile) bool { return sameVariant(o.Variant, f.Variant) }); {
		case foldVariant(f.Variant) == "" || strings.ContainsFunc(f.Variant, unicode.IsControl):
			return fmt.Errorf("file %d is of no variant: name it, in letters that can be read", k+1)
		case i >= 0:
			return fmt.Errorf("the files %d and %d are both of the variant %s", i+1, k+1, f.Variant)
		}
		for _, c := range f.Columns {
			switch {
			case c.Role == Level:
				return fmt.Errorf("the file of %s tells by its column %q what is part of what, and rows of several such files would lose their places: name the variants in a column of one file", f.Variant, c.Heading)
			case c.Role == Variants, c.Variant != "":
				return fmt.Errorf("the file of %s is of several variants itself, by its column %q", f.Variant, c.Heading)
			}
		}
	}
	return nil
}

// headingsTogether are the headings of all files, each once, and where each column of each file has its place among them: columns that are the same are one, under the heading
// of the first file, and of what is nothing in particular those that are called the same. fits are the places of those that say whether a line is fitted.
func headingsTogether(files []VariantFile) (header []string, places [][]int, fits []int) {
	at := map[string]int{}
	for _, f := range files {
		count := map[string]int{}
		var place []int
		for i, c := range f.Columns {
			is := string(c.Role) + "\x00" + c.Param + "\x00" + c.Unit
			if c.Role == "" || c.Role == Remark {
				is += "\x00" + cmp.Or(headings.Plain(c.Heading), strings.TrimSpace(c.Heading), "\x00"+strconv.Itoa(i)) // without a heading: where it stands
			}
			count[is]++
			is += "\x00" + strconv.Itoa(count[is])
			if _, has := at[is]; !has {
				at[is] = len(header)
				if c.Role == Fit || c.Role == Unfit {
					fits = append(fits, len(header))
				}
				header = append(header, c.Heading)
			}
			place = append(place, at[is])
		}
		places = append(places, place)
	}
	return header, places, fits
}

// TellVariants says of the columns of files that were put together which of them tell the variants: the last, whatever the variants are called.
func (c Columns) TellVariants(variants []string) Columns {
	said := map[int]Column{}
	for i, name := range variants {
		if at := len(c) - len(variants) + i; at >= 0 {
			said[at] = Column{Role: Fit, Variant: name, Because: "the files of the variants were put together"}
		}
	}
	return c.With(said)
}

// share is a designator with all that its row says, or a whole row where designators cannot be counted out of it.
type share struct {
	designator string
	in         []int      // files
	notes      [][]string // the remarks that each of them has beside it
}

// source is a row of the first file that has it.
type source struct {
	cells   []string
	notes   []string // of them, what is a remark or not used
	where   int      // the column of designators; -1: none
	counted int      // the column of a quantity that is the number of its designators; -1: none
	all     int      // pieces of the row
	pieces  []*share
}

// merging puts rows of files together.
type merging struct {
	at      map[string]*share
	fits    []int
	sources []*source
}

// take takes the lines of a file, whose columns have places among those of all.
func (t *merging) take(file int, f *VariantFile, places []int, width int) {
	seen := map[string]int{} // how often the file has a piece
	for i := range f.Lines {
		s, designators, rest := f.Lines[i].split(f.Columns, places, width, t.fits)
		for _, d := range designators {
			key := d + "\x00" + rest
			seen[key]++
			key += "\x00" + strconv.Itoa(seen[key])
			p := t.at[key]
			if p == nil {
				p = &share{designator: d}
				t.at[key] = p
				s.pieces = append(s.pieces, p)
			}
			p.in, p.notes = append(p.in, file), append(p.notes, s.notes)
		}
		t.sources = append(t.sources, s)
	}
}

// split takes a line apart: its cells in their places among those of all files, its designators, and what it says of each of them. A line whose designators cannot be counted
// out of it has one blank one, and says all that it does. Of columns about fitting only what they say counts.
func (l *Line) split(c Columns, places []int, width int, fits []int) (s *source, designators []string, rest string) {
	s = &source{cells: make([]string, width), where: -1, counted: -1, all: 1}
	for i, cell := range l.Cells[:min(len(l.Cells), len(places))] {
		s.cells[places[i]] = cell
	}
	for _, p := range fits { // a file without such a column says in another way whether the line is fitted
		if !slices.Contains(places, p) {
			s.cells[p] = map[bool]string{true: notInIt, false: inIt}[l.NotFitted]
		}
	}
	says := append(slices.Clone(s.cells), strconv.FormatBool(l.FitAsk != ""), strconv.FormatBool(l.NotFitted))
	for _, p := range fits {
		says[p] = ""
	}
	s.notes = make([]string, width)
	for i, p := range places[:min(len(c), len(places))] {
		if c[i].Role == "" || c[i].Role == Remark {
			s.notes[p], says[p] = s.cells[p], ""
		}
	}
	at, ok := c.At(Designator)
	if !ok || !l.countable() {
		return s, []string{""}, spaced(says)
	}
	s.where, s.all = places[at], len(l.Designators)
	says[s.where] = ""
	if q, ok := c.At(Quantity); ok && l.Quantity >= 0 {
		s.counted = places[q]
		says[s.counted] = "" // as in a file that leaves it to be counted
	}
	return s, l.Designators, spaced(says)
}

// spaced are cells as they are compared: blanks around and between words say nothing.
func spaced(cells []string) string {
	out := make([]string, len(cells))
	for i, c := range cells {
		out[i] = strings.Join(strings.Fields(c), " ")
	}
	return strings.Join(out, "\x01")
}

// countable says whether designators can be counted out of a line: all of it was read in one way, and its quantity is their number, or there is none.
func (l *Line) countable() bool {
	return len(l.Designators) > 0 && len(l.Problems) == 0 && len(l.Read) == 0 && l.Amount == (Amount{}) && (l.Quantity < 0 || l.Quantity == len(l.Designators))
}

// noted are the remarks that files have beside a share of a row, in one row of cells: as they are where those that say something say the same, or each with its variants.
func (p *share) noted(files []VariantFile) []string {
	out := make([]string, len(p.notes[0]))
	for at := range out {
		var texts []string
		by := map[string][]string{}
		for i, cells := range p.notes {
			if text := spaced(cells[at : at+1]); text != "" {
				if by[text] == nil {
					texts = append(texts, text)
				}
				by[text] = append(by[text], files[p.in[i]].Variant)
			}
		}
		if len(texts) > 1 {
			for i, text := range texts {
				texts[i] = fmt.Sprintf("%s [%s]", text, strings.Join(by[text], ", "))
			}
		}
		out[at] = strings.Join(texts, ", ")
	}
	return out
}

// rows are the rows of files, each with the variants that it is in.
func (t *merging) rows(files []VariantFile) (out [][]string) {
	for _, s := range t.sources {
		type group struct {
			designators, noted []string
			in                 []int
		}
		var order []*group
		groups := map[string]*group{}
		for _, p := range s.pieces {
			noted := p.noted(files)
			key := fmt.Sprint(p.in, "\x00", spaced(noted))
			if groups[key] == nil {
				groups[key] = &group{noted: noted, in: p.in}
				order = append(order, groups[key])
			}
			groups[key].designators = append(groups[key].designators, p.designator)
		}
		for _, g := range order {
			cells := slices.Clone(s.cells)
			for at, text := range g.noted {
				if text != "" {
					cells[at] = text
				}
			}
			if s.where >= 0 && len(g.designators) < s.all {
				cells[s.where] = strings.Join(g.designators, ", ")
				if s.counted >= 0 {
					cells[s.counted] = strconv.Itoa(len(g.designators))
				}
			}
			for k := range files { // a tick for each
				cells = append(cells, map[bool]string{true: inIt, false: notInIt}[slices.Contains(g.in, k)])
			}
			out = append(out, cells)
		}
	}
	return out
}

// AsPutTogether says whether lines that were read of files put together are, in each variant, those of its file: the same designators with the same cells, as many, which
// are taken for the same, fitted or not. It fails with what is otherwise, so that files whose cells would be taken for something else are refused and not misread.
func AsPutTogether(files []VariantFile, columns Columns, lines []Line) error {
	header, places, fits := headingsTogether(files)
	own := make([]int, len(header)) // where the columns of all are among those of all
	for i := range own {
		own[i] = i
	}
	for k := range files {
		f := &files[k]
		more := map[string]int{}
		count := func(l *Line, c Columns, places []int, n int) {
			_, designators, rest := l.split(c, places, len(header), fits)
			for _, d := range designators {
				more[d+"\x00"+rest+"\x00"+l.Evidence()] += n
			}
		}
		for i := range f.Lines {
			count(&f.Lines[i], f.Columns, places[k], 1)
		}
		for i := range lines {
			if l := &lines[i]; l.Is(f.Variant) {
				count(l, columns, own, -1)
			}
		}
		for what, n := range more {
			if n != 0 {
				d, _, _ := strings.Cut(what, "\x00")
				return fmt.Errorf("what the file of %s says of %s would be read as something else", f.Variant, cmp.Or(d, "a row without designators"))
			}
		}
	}
	return nil
}
