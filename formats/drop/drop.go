// Package drop reads what a supplier, a colleague or an old library hands over as models: single files or an archive with
// any mix of them. It tells by what is inside a file what it is, never by its name, and says of each what it became.
package drop

import (
	"bytes"
	"fmt"
	"io"
	"path"
	"strings"
	"unicode/utf8"

	"jollydrawer/core/model"
	"jollydrawer/core/names"
	"jollydrawer/formats/archive"
	"jollydrawer/formats/edif"
	"jollydrawer/formats/ibis"
	"jollydrawer/formats/ipc2581"
	"jollydrawer/formats/rows"
	"jollydrawer/formats/step"
	"jollydrawer/formats/tabular"
)

// The things that a file of a drop can be.
const (
	Models     = "models"     // symbols, land patterns, bodies, pin maps
	PinList    = "pin list"   // a pin table
	Datasheet  = "datasheet"  // a PDF
	Simulation = "simulation" // a SPICE netlist
	Signals    = "signals"    // IBIS, which is a pin list as well
	Unknown    = "unknown"
	Refused    = "refused" // known, and not to be read
)

// Member is one file of a drop.
type Member struct {
	Path   string          `json:"path"` // as it came, folders included
	Is     string          `json:"is"`
	What   string          `json:"what"` // what it became, or why not, as a sentence
	Models []model.Content `json:"-"`
	Lists  []model.PinList `json:"-"`               // of a pin table or IBIS file: one for each package or component
	Wrong  []string        `json:"wrong,omitempty"` // of parts of it that were not read
	Said   []string        `json:"said,omitempty"`  // of what was read: what was not carried over, or taken in a way that should be known
	Raw    []byte          `json:"-"`
}

// Limits on the members of a drop.
type Limits struct {
	Member int64 // bytes of one member
	Table  rows.Limits
}

// DefaultLimits are generous for models and small for attacks.
var DefaultLimits = Limits{Member: step.MaxBytes, Table: rows.DefaultLimits}

// Read reads one file as it came: an archive with its members, or a single file. Only an archive that cannot be opened is
// an error; what is wrong with a member is said with it.
func Read(name string, raw []byte, lim Limits) ([]Member, error) {
	if !archive.Is(raw) || workbook(raw) {
		return []Member{one(name, raw, lim)}, nil
	}
	z, err := archive.Open(raw)
	if err != nil {
		return nil, err
	}
	var out []Member
	for _, f := range z.File {
		if archive.Passed(f) {
			continue
		}
		m := Member{Path: clean(f.Name)}
		switch raw, err := archive.Read(f); {
		case err != nil:
			m.Is, m.What = Refused, sentence(err)
		default:
			m = one(clean(f.Name), raw, lim)
		}
		out = append(out, m)
		if len(out) > 2000 {
			return nil, rows.Errorf("The archive holds more than 2,000 files: bring it in in pieces.")
		}
	}
	if len(out) == 0 {
		return nil, rows.Errorf("The archive is empty.")
	}
	return out, nil
}

func clean(name string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f {
			return '_'
		}
		return r
	}, strings.ToValidUTF8(path.Clean(strings.ReplaceAll(name, "\\", "/")), "_"))
}

func sentence(err error) string {
	s := err.Error()
	if s == "" {
		return s
	}
	first, n := utf8.DecodeRuneInString(s)
	s = strings.ToUpper(string(first)) + s[n:]
	if !strings.HasSuffix(s, ".") {
		s += "."
	}
	return s
}

// workbook says whether an archive is an XLSX workbook (ECMA-376) and with that a table.
func workbook(raw []byte) bool {
	z, err := archive.Open(raw)
	if err != nil {
		return false
	}
	for _, f := range z.File {
		if strings.HasPrefix(f.Name, "xl/") {
			return true
		}
	}
	return false
}

// reader is one way to understand a file.
type reader struct {
	fits func(raw []byte) bool
	read func(m *Member, raw []byte, lim Limits) error
}

// readers in the order in which they are asked; the surest come first.
var readers = []reader{
	{func(raw []byte) bool { return bytes.HasPrefix(raw, []byte("%PDF-")) }, datasheet},
	{step.Is, body},
	{edif.Is, symbols},
	{ipc2581.Is, lands},
	{model.IsDocument, own},
	{ibis.Is, signals},
	{isSpice, simulation},
	{isTable, table},
}

func one(name string, raw []byte, lim Limits) Member {
	m := Member{Path: name, Raw: raw, Is: Unknown}
	switch {
	case len(raw) == 0:
		m.Is, m.What = Refused, "The file is empty."
		return m
	case int64(len(raw)) > lim.Member:
		m.Is, m.What, m.Raw = Refused, fmt.Sprintf("The file has %d MB; at most %d MB are read.", len(raw)>>20, lim.Member>>20), nil
		return m
	case archive.Is(raw) && !workbook(raw):
		m.Is, m.What = Refused, "An archive inside an archive is not opened: unpack it once and bring in what is inside."
		return m
	}
	for _, r := range readers {
		if !r.fits(raw) {
			continue
		}
		if err := r.read(&m, raw, lim); err != nil {
			m.Is, m.What, m.Models, m.Lists = Refused, sentence(err), nil, nil
		}
		for i := range m.Models { // once, while nobody else has them
			m.Models[i].Normalise()
		}
		return m
	}
	m.What = "It is none of the forms that are read here: own documents, EDIF, IPC-2581, IBIS, STEP, pin tables, PDF, SPICE. It is kept as it came."
	return m
}

func (m *Member) base() string { return path.Base(m.Path) }

// stem is the file's name without its ending.
func (m *Member) stem() string {
	b := m.base()
	if e := path.Ext(b); e != "" && e != b {
		b = strings.TrimSuffix(b, e)
	}
	return strings.Join(strings.Fields(b), " ")
}

func count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

func (m *Member) became(what string) error {
	m.Is, m.What = Models, what+"."
	if len(m.Wrong) > 0 {
		m.What = fmt.Sprintf("%s; %s not read.", what, count(len(m.Wrong), "was", "were"))
		if len(m.Models) == 0 {
			m.Is = Refused
		}
	}
	return nil
}

// saying keeps what was said of one model of a file.
func (m *Member) saying(name string, said []string) {
	for _, t := range said {
		m.Said = append(m.Said, fmt.Sprintf("%s: %s", name, t))
	}
}

func datasheet(m *Member, _ []byte, _ Limits) error {
	m.Is, m.What = Datasheet, "A PDF: kept as a datasheet."
	return nil
}

func body(m *Member, raw []byte, _ Limits) error {
	s, err := step.Read(raw)
	if err != nil {
		return err
	}
	name := m.stem()
	size := s.Box.Size()
	m.Models = []model.Content{{Kind: model.KindBody, Name: name, Body: &model.Body{Box: s.Box, Unit: s.Unit, Feet: s.Feet, Mark: s.Mark}}}
	return m.became(fmt.Sprintf("A body of %s × %s × %s mm", size.X, size.Y, size.Z))
}

func symbols(m *Member, raw []byte, _ Limits) error {
	f, err := edif.Read(raw)
	if err != nil {
		return err
	}
	m.Wrong, m.Said = f.Wrong, f.Said
	for _, c := range f.Cells {
		m.Models = append(m.Models, model.Content{Kind: model.KindSymbol, Name: c.Name, Symbol: c.Symbol})
		m.saying(c.Name, c.Said)
	}
	return m.became("EDIF with " + count(len(f.Cells), "symbol", "symbols"))
}

func lands(m *Member, raw []byte, _ Limits) error {
	f, err := ipc2581.Read(raw)
	if err != nil {
		return err
	}
	m.Wrong, m.Said = f.Wrong, f.Said
	for _, p := range f.Packages {
		m.Models = append(m.Models, model.Content{Kind: model.KindLand, Name: p.Name, Land: p.Land})
		m.saying(p.Name, p.Said)
	}
	return m.became("IPC-2581 with " + count(len(f.Packages), "land pattern", "land patterns"))
}

func own(m *Member, raw []byte, _ Limits) error {
	all, wrong, err := model.ReadDocument(raw)
	if err != nil {
		return err
	}
	m.Models, m.Wrong = all, wrong
	if len(all) == 1 {
		return m.became("A " + string(all[0].Kind) + " of our own form")
	}
	return m.became(fmt.Sprintf("A library of our own form with %d models", len(all)))
}

func signals(m *Member, raw []byte, _ Limits) error {
	all, err := ibis.Read(raw)
	if err != nil {
		return err
	}
	m.Is = Signals
	for _, c := range all {
		m.Lists = append(m.Lists, model.PinList{Name: c.Name, Pins: c.Pins, Wrong: c.Wrong})
		m.Wrong = append(m.Wrong, c.Wrong...)
	}
	m.What = fmt.Sprintf("IBIS with the pins of %s: to lay beside the symbol; kept as an attachment.", listed(m.Lists))
	return nil
}

// listed names pin lists with how many pins each has.
func listed(lists []model.PinList) string {
	var all []string
	for i, l := range lists {
		if i == 5 {
			all = append(all, fmt.Sprintf("%d more", len(lists)-5))
			break
		}
		all = append(all, strings.TrimSpace(fmt.Sprintf("%s %s", l.Name, count(len(l.Pins), "pin", "pins"))))
	}
	return strings.Join(all, ", ")
}

// isSpice looks for the control lines of a SPICE netlist at the beginning of lines.
func isSpice(raw []byte) bool {
	head := strings.ToLower(string(raw[:min(len(raw), 8192)]))
	for _, line := range strings.Split(head, "\n") {
		line = strings.TrimSpace(line)
		if strings.HasPrefix(line, ".subckt ") || strings.HasPrefix(line, ".model ") {
			return true
		}
	}
	return false
}

func simulation(m *Member, _ []byte, _ Limits) error {
	m.Is, m.What = Simulation, "A SPICE netlist: kept as an attachment."
	return nil
}

// isTable: text, or a workbook.
func isTable(raw []byte) bool {
	if archive.Is(raw) {
		return true
	}
	head := raw[:min(len(raw), 4096)]
	return bytes.Count(head, []byte{0}) == 0 && bytes.ContainsAny(head, ",;\t|") && bytes.Contains(head, []byte("\n")) ||
		bytes.HasPrefix(raw, []byte{0xff, 0xfe}) || bytes.HasPrefix(raw, []byte{0xfe, 0xff})
}

func table(m *Member, raw []byte, lim Limits) error {
	t, err := PinTable(raw, lim)
	if err != nil {
		m.Is, m.What = Unknown, sentence(err)+" It is kept as it came."
		return nil
	}
	c, ok := t.Columns()
	if !ok {
		m.Is, m.What = Unknown, sentence(NoPinTable(t))+" It is kept as it came."
		return nil
	}
	m.Is, m.Lists = PinList, t.Read(c)
	for _, l := range m.Lists {
		m.Wrong = append(m.Wrong, l.Wrong...)
	}
	m.What = fmt.Sprintf("A pin table with %s.", listed(m.Lists))
	return nil
}

// NoPinTable says why no pins are found in a table.
func NoPinTable(t model.PinTable) error {
	return fmt.Errorf("a table whose headings name no pin number and pin name: %s", strings.Join(t.Headings[:min(len(t.Headings), 8)], ", "))
}

// PinTable reads a table in any form that a table is read in.
func PinTable(raw []byte, lim Limits) (t model.PinTable, err error) {
	r, err := tabular.Open(io.NopCloser(bytes.NewReader(raw)), int64(len(raw)), rows.Layout{}, lim.Table)
	if err != nil {
		return t, err
	}
	defer r.Close()
	var all [][]string
	for {
		row, ok, err := r.Next()
		if err != nil {
			return t, err
		}
		if !ok {
			break
		}
		if len(all) > 2*model.MostPins {
			return t, fmt.Errorf("the table has more than %d rows; no part has that many pins", 2*model.MostPins)
		}
		all = append(all, row.Cells)
	}
	return model.PinTable{Headings: r.Header(), Rows: all, FirstLine: 2}, nil
}

// Twice says where two members claim the same model: the second is kept under a name of its own.
func Twice(all []Member) {
	type key struct {
		kind model.Kind
		name string
	}
	first := map[key]string{} // where the model of a name is
	taken := map[model.Kind]*names.Taken{}
	for i := range all {
		for j := range all[i].Models {
			m := &all[i].Models[j]
			if taken[m.Kind] == nil {
				taken[m.Kind] = &names.Taken{}
			}
			name := m.Name
			if m.Name = taken[m.Kind].Free(name, names.Bracketed); m.Name != name {
				all[i].Wrong = append(all[i].Wrong, fmt.Sprintf("the %s %q is in %s as well; this one is named %q", m.Kind, name, first[key{m.Kind, strings.ToLower(name)}], m.Name))
			}
			first[key{m.Kind, strings.ToLower(m.Name)}] = all[i].Path
		}
	}
}
