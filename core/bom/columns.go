package bom

import (
	"fmt"
	"strconv"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/described"
	"jollydrawer/core/headings"
	"jollydrawer/core/part"
)

// Meaning is what kind of evidence a column holds.
type Meaning string

// The meanings. A column without one is named as not used.
const (
	Identity Meaning = "identity" // says which part: own number, MPN, maker, supplier number
	AFact    Meaning = "fact"     // says what the part is like: value, package, description, rating
	ACount   Meaning = "count"    // how many and where: quantity, designators, fitted or not
	ARemark  Meaning = "remark"   // words for people
	NotUsed  Meaning = ""
)

// Role is what a column of a BOM is.
type Role string

// The roles. Fact is a column of one parameter of the dictionary.
const (
	Designator     Role = "designator"
	Quantity       Role = "quantity"
	Number         Role = "number"
	MPN            Role = "mpn"
	Manufacturer   Role = "manufacturer"
	Supplier       Role = "supplier"
	SupplierNumber Role = "supplierNumber"
	Value          Role = "value"
	Package        Role = "package"
	Description    Role = "description"
	Fact           Role = "fact"
	Fit            Role = "fit"       // marks say whether it is fitted
	Unfit          Role = "notFitted" // marks name what is left off
	Variants       Role = "variants"  // lists the variants of the board that a line is in
	Level          Role = "level"     // how deep in the structure of sub-assemblies a line stands
	Remark         Role = "remark"
)

// Roles lists the roles that a person may give a column.
var Roles = []Role{Designator, Quantity, Number, MPN, Manufacturer, Supplier, SupplierNumber, Value, Package, Description, Fact, Fit, Unfit, Variants, Level, Remark}

// Meaning is what kind of evidence a role is.
func (r Role) Meaning() Meaning {
	switch r {
	case Number, MPN, Manufacturer, Supplier, SupplierNumber:
		return Identity
	case Value, Package, Description, Fact:
		return AFact
	case Designator, Quantity, Fit, Unfit, Variants, Level:
		return ACount
	case Remark:
		return ARemark
	}
	return NotUsed
}

// several says whether more than one column may have a role.
func (r Role) several() bool { return r == Fact || r == Fit || r == Unfit || r == Remark || r == "" }

// Column is one column of a BOM with what it was taken for.
type Column struct {
	At      int     `json:"at"`
	Heading string  `json:"heading"`
	Role    Role    `json:"role"`
	Meaning Meaning `json:"meaning"`
	Param   string  `json:"param,omitempty" doc:"The parameter that a fact column is of"`
	Unit    string  `json:"unit,omitempty" doc:"The unit that its heading names"`
	Blank   string  `json:"blank,omitempty" enum:"fitted,not fitted" doc:"What an empty cell means in a column about fitting, where somebody said so"`
	Variant string  `json:"variant,omitempty" doc:"The variant of the board that a column about fitting, or of a quantity, is of"`
	Because string  `json:"because"`

	ticks   bool     // no cell says that something is left off, so that an empty one may
	both    bool     // its heading names what is fitted and what is left off
	unsaid  string   // why nobody knows what its cells mean for whether a line is fitted
	lists   *listing // what a column of lists of variants names
	apart   string   // what its heading names beside fitting, as a variant alone would be
	crosses bool     // "x" stands beside other marks that say yes
}

// said says whether a person said what the column is.
func (c Column) said() bool { return strings.HasSuffix(c.Because, " said so") }

// Columns are all columns of a file, in its order.
type Columns []Column

// Headings lists what stands over the columns.
func (c Columns) Headings() []string {
	out := make([]string, len(c))
	for i := range c {
		out[i] = c[i].Heading
	}
	return out
}

// At finds the first column of a role.
func (c Columns) At(r Role) (at int, ok bool) {
	for _, col := range c {
		if col.Role == r && col.Variant == "" {
			return col.At, true
		}
	}
	return 0, false
}

var roleNames = []struct {
	role  Role
	names string
}{
	{Designator, "designator|designators|reference|references|refdes|ref des|ref|refs|position|positions|ref designator|reference designator|reference designators|circuit reference|circuit references|component reference|parts|des"},
	{Quantity, "quantity|qty|count|pcs|amount|per board|qty per board|quantity per board|qty per|quantity per|qty per assembly|quantity per assembly|qty per parent|number off|qnty"},
	{Number, "part number|house number|our number|our part number|internal number|internal part number|article number|part no|part nr|article|library number|item number|stock id|own number|house part number|house no|ipn|pn|part id|record number|library part"},
	{MPN, "mpn|manufacturer part number|mfr part number|mfr part no|maker part no|maker part number|maker s number|mfr pn|mfg pn|manufacturer pn|manufacturer number|manufacturer part|mfr part|maker no|make number|manufacturer part no|manufacturer no|mfr no|type number|order designation"},
	{Manufacturer, "manufacturer|maker|mfr|mfg|brand|make|manufacturer name|made by|producer"},
	{Supplier, "supplier|vendor|distributor|source|seller|bought from"},
	{SupplierNumber, "supplier number|order code|order number|order no|stock code|supplier part number|supplier part no|supplier pn|vendor number|vendor part number|vendor pn|distributor number|distributor part number|catalogue number|sku"},
	{Value, "value|nominal|val|component value|part value|rated value"},
	{Package, "package|case|size|land pattern|case size|outline|footprint|case code|package case|body size|case style|pcb footprint|pattern"},
	{Description, "description|text|designation|part description|item description|long description|component|type|details|specification|spec"},
	{Fit, "fit|fitted|fitting|include in bom|included in bom|on pcb|on the board|assembly|populate|populated|mount|mounted|place|placed|assembled|install|installed|in bom|on board|stuff|stuffed"},
	{Remark, "remark|remarks|comment|comments|note|notes|item|item no|line|line number|pos|no|row|price|unit price|stock|status|variant|packing|minimum order|link|url|datasheet|weight|country of origin|rev|revision|part revision|minimum quantity|moq"},
}

// englishRoles says which role the English phrases of other languages' headings have.
var englishRoles = map[string]Role{"part number": Number, "manufacturer": Manufacturer, "manufacturer part number": MPN, "supplier": Supplier, "supplier number": SupplierNumber, "description": Description, "designator": Designator,
	"quantity": Quantity, "value": Value, "package": Package, "land pattern": Package, "fitted": Fit, "remark": Remark, "item": Remark, "price": Remark, "stock": Remark, "packing": Remark, "minimum order": Remark, "datasheet": Remark, "status": Remark,
	"weight": Remark, "country of origin": Remark, "category": Description}

// reader knows what headings and cells may mean in a house.
type columnReader struct {
	cab     *cabinet.Cabinet
	lexicon *described.Lexicon
	own     func(text string) bool // whether a text has the form of our numbering
}

// FindColumns says what each column of a BOM is, by its heading in five languages and by its content: a column of own
// numbers is found whatever it is called. Of two columns that could have a role the first has it. It fails where no
// column holds designators.
func FindColumns(header []string, sample [][]string, cab *cabinet.Cabinet) (Columns, error) {
	r := columnReader{cab: cab, lexicon: described.NewLexicon(cab), own: OwnNumbers(cab)}
	out := make(Columns, len(header))
	taken := map[Role]int{}
	for i, h := range header {
		out[i] = Column{At: i, Heading: h}
		role, because := r.role(h)
		said := because
		numbers, filled := r.share(sample, i)
		switch {
		case role != Number && role != MPN && role != SupplierNumber && filled > 1 && numbers == filled:
			role, because = Number, "all of its cells have the form of our part numbers"
		case role == Number && filled > 0 && numbers == 0 && strings.Contains(headings.Plain(h), "part n"):
			because = "its heading says so, though no cell has the form of our part numbers"
		}
		if (role == Fit || role == Unfit) && !plainlyFitting(h) {
			if marks, filled := saysFitting(sample, i); filled > 0 && marks == 0 {
				role, because = Remark, "its heading says whether a part is fitted, and none of its cells does"
			}
		}
		if role == Designator && r.running(sample, i) {
			role, because = Remark, "its cells are running numbers"
		}
		key, unit, of := r.parameter(h)
		if role == "" && said != "" { // why it is not what its name would be: a word of it is no parameter's name either
			of = false
		}
		if role == "" && of { // "Montage" with yes and no below it names no kind of mounting
			if marks, filled := saysFitting(sample, i); marks > 0 && marks == filled {
				role, because = fitRole(h, sample, i)
			}
		}
		if role == "" && !of {
			role, because = fitRole(h, sample, i)
		}
		first, twice := taken[role]
		switch {
		case role == "" && of:
			p, _ := cab.Parameter(key)
			out[i].Role, out[i].Param, out[i].Unit, out[i].Because = Fact, key, unit, "its heading is a name of "+p.Label
		case role == "":
			because, out[i].Because = "", said
		case twice && !role.several():
			because = fmt.Sprintf("column %q is the %s already", header[first], role)
			if role == Description || role == Package {
				out[i].Role, out[i].Because = Remark, because
			} else {
				out[i].Because = because
			}
		default:
			taken[role] = i
			out[i].Role, out[i].Because = role, because
		}
		out[i].Meaning = out[i].Role.Meaning()
		if out[i].Because == "" {
			out[i].Because = "nothing is known of its heading"
		}
	}
	if _, ok := taken[MPN]; !ok { // "Part number" of a house that has no numbers of its own is the maker's
		if i, ok := taken[Number]; ok {
			if numbers, filled := r.share(sample, i); filled > 2 && numbers == 0 && r.makersNumbers(sample, i) {
				out[i].Role, out[i].Because = MPN, "its cells look like manufacturer part numbers, and none has the form of ours"
				out[i].Meaning = Identity
			}
		}
	}
	if _, ok := taken[Designator]; !ok {
		if i := r.designators(sample, out); i >= 0 {
			out[i].Role, out[i].Meaning, out[i].Because = Designator, ACount, "its cells are designators"
			out.asTheyDiffer(sample)
			return out, nil
		}
		return nil, fmt.Errorf("no column of designators was found among %s: name one of them Designator or Reference", quoteList(header))
	}
	out.asTheyDiffer(sample)
	return out, nil
}

// asTheyDiffer finds the columns that tell lines apart by level and variant, once the others have their roles.
func (c Columns) asTheyDiffer(sample [][]string) {
	findLevels(c, sample)
	perVariant(c, sample)
}

func quoteList(list []string) string {
	var q []string
	for _, l := range list {
		if l != "" {
			q = append(q, strconv.Quote(l))
		}
	}
	return strings.Join(q, ", ")
}

// role finds the role that a heading names.
func (r *columnReader) role(heading string) (Role, string) {
	p := headings.Plain(heading)
	if p == "" {
		return "", ""
	}
	off, both, bare := sides(p)
	switch {
	case both:
		return Fit, "its heading names what is fitted and what is not"
	case off:
		return Unfit, "its heading names what is left off"
	}
	name, _ := headings.Unit(heading)
	for _, said := range []struct {
		forms []string
		alone bool // it is what stands beside brackets
	}{{[]string{p, headings.Long(heading), bare}, p == headings.Plain(name)}, {[]string{name}, true}} {
		for _, form := range said.forms {
			if role := roleNamed(headings.Plain(form)); role != "" {
				return asideOf(heading, role, said.alone, "its heading says so")
			}
		}
		if english := headings.English(said.forms[0]); english != "" {
			if role, ok := englishRoles[english]; ok {
				return asideOf(heading, role, said.alone, "its heading means "+english)
			}
		}
	}
	if english := headings.Abbreviated(name); english != "" {
		if role, ok := englishRoles[english]; ok {
			return asideOf(heading, role, true, "its heading seems short for "+english)
		}
	}
	return "", ""
}

// limits and usual are words that leave the heading of a parameter what it is, and make another thing of a quantity, a number or a maker.
var (
	limits = wordSet("max|maximum|min|minimum|least|most")
	usual  = wordSet("typ|typical|nom|nominal")
)

func roleNamed(plain string) Role {
	for _, n := range roleNames {
		if plain != "" && strings.Contains("|"+n.names+"|", "|"+plain+"|") {
			return n.role
		}
	}
	return ""
}

// asideOf is the role of a heading whose name alone has one, unless what it says beside its name may make it another thing: "Qty (10 boards)" is no quantity of a board,
// "Manufacturer (alternative)" not the maker, "Value (EUR)" no value. What only describes is described with an aside too.
func asideOf(heading string, role Role, alone bool, because string) (Role, string) {
	if role == Description || role == Package || role == Remark || role == Fit || role == Fact {
		return role, because
	}
	for _, w := range strings.Fields(headings.Plain(heading)) { // the least quantity of an order is none of a board
		if limits[w] || role != Value && usual[w] {
			return "", fmt.Sprintf("its heading says %q beside a name of the %s", w, role)
		}
	}
	aside := headings.Aside(heading)
	if !alone || aside == "" {
		return role, because
	}
	return "", fmt.Sprintf("its heading says %s beside a name of the %s", aside, role)
}

// parameter finds the one parameter whose name a heading is.
func (r *columnReader) parameter(heading string) (key, unit string, ok bool) {
	name, unit := headings.Unit(heading)
	if headings.Aside(heading) != "" {
		if headings.Plain(name) == headings.Plain(heading) {
			return "", "", false
		}
		name = heading
	}
	for _, form := range []string{name, headings.English(name), headings.Long(name), headings.Abbreviated(name)} {
		if form == "" {
			continue
		}
		if keys := r.lexicon.Keys(form); len(keys) == 1 {
			return keys[0], unit, true
		}
	}
	return "", "", false
}

// share counts the cells of a column that have the form of our numbers, and those that are filled.
func (r *columnReader) share(sample [][]string, at int) (numbers, filled int) {
	for _, row := range sample {
		if at >= len(row) || strings.TrimSpace(row[at]) == "" {
			continue
		}
		filled++
		if r.own(row[at]) {
			numbers++
		}
	}
	return numbers, filled
}

// running says whether the cells of a column are whole numbers and nothing else: the numbers of the lines.
func (r *columnReader) running(sample [][]string, at int) bool {
	filled := 0
	for _, row := range sample {
		if at < len(row) && strings.TrimSpace(row[at]) != "" {
			filled++
			if strings.Trim(strings.TrimSpace(row[at]), "0123456789.") != "" {
				return false
			}
		}
	}
	return filled > 0
}

// makersNumbers says whether the cells of a column look like MPNs: letters and digits in one word.
func (r *columnReader) makersNumbers(sample [][]string, at int) bool {
	good, filled := 0, 0
	for _, row := range sample {
		if at >= len(row) || strings.TrimSpace(row[at]) == "" {
			continue
		}
		filled++
		s := strings.TrimSpace(row[at])
		if strings.ContainsAny(s, "0123456789") && strings.ContainsFunc(s, func(r rune) bool { return r >= 'A' && r <= 'Z' || r >= 'a' && r <= 'z' }) && !strings.Contains(s, " ") {
			good++
		}
	}
	return filled > 0 && good*10 >= filled*8
}

// designators finds a column without a role whose cells are designators.
func (r *columnReader) designators(sample [][]string, cols Columns) int {
	for _, c := range cols {
		good, filled := 0, 0
		for _, row := range sample {
			if c.At >= len(row) || strings.TrimSpace(row[c.At]) == "" {
				continue
			}
			filled++
			if d := ReadDesignators(row[c.At], -1); len(d.List) > 0 && len(d.Problems) == 0 {
				good++
			}
		}
		most := good*10 >= filled*9 || good > 3 && good == filled-1 // a row of the sum is none
		if filled > 1 && most && (c.Role == "" || c.Role == Remark) {
			return c.At
		}
	}
	return -1
}

// OwnNumbers returns whether a text has the form of our numbering: the prefix of a drawer and its digits, whatever the
// capitals, blanks and punctuation.
func OwnNumbers(cab *cabinet.Cabinet) func(text string) bool {
	forms := map[string]int{}
	for _, t := range cab.Templates() {
		if t.Prefix != "" {
			forms[part.NormaliseMPN(t.Prefix)] = max(forms[part.NormaliseMPN(t.Prefix)], t.Digits)
		}
	}
	return func(text string) bool {
		n := part.NormaliseMPN(text)
		k := len(n)
		for k > 0 && n[k-1] >= '0' && n[k-1] <= '9' {
			k--
		}
		digits, ok := forms[n[:k]]
		return ok && len(n)-k >= digits && len(n)-k <= digits+4
	}
}

// Layout is what files of one origin have in common: their headings. A person's word on its columns holds for all of them.
func Layout(header []string) string {
	plain := make([]string, len(header))
	for i, h := range header {
		plain[i] = headings.Plain(h)
	}
	return strings.Join(plain, "|")
}

// With returns the columns with what a person said of them, by place.
func (c Columns) With(said map[int]Column) Columns {
	out := append(Columns{}, c...)
	for i := range out {
		s, ok := said[out[i].At]
		if !ok {
			continue
		}
		for k := range out { // a role that is given to one column is taken from another
			if k != i && out[k].Role == s.Role && !s.Role.several() && out[k].Variant == "" && s.Variant == "" {
				out[k].Role, out[k].Meaning, out[k].Because = "", NotUsed, "another column was chosen for it"
			}
		}
		out[i].Role, out[i].Param, out[i].Blank, out[i].Variant, out[i].Meaning, out[i].Because = s.Role, s.Param, s.Blank, s.Variant, s.Role.Meaning(), s.Because
	}
	return out
}
