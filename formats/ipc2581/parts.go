package ipc2581

import (
	"cmp"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"jollydrawer/core/names"
	"jollydrawer/formats/rows"
	"jollydrawer/formats/said"
)

// NotKnown stands where the form asks for a name that a bill of materials does not know, as of a package or a layer.
const NotKnown = "not-known"

// unitOfQuantity names the characteristic that an amount's unit is written as: the form knows numbers only.
const unitOfQuantity = "Quantity unit"

// around are sections beside those of parts: boards, drawings and who wrote the file.
var around = map[string]bool{"Ecad": true, "HistoryRecord": true, "DictionaryColor": true, "DictionaryLineDesc": true, "DictionaryFillDesc": true, "DictionaryStandard": true, "DictionaryUser": true, "DictionaryFirmware": true, "DictionaryFont": true}

// partHeadings are the columns that every bill of materials is read as; the characteristics of its items stand behind them.
var partHeadings = []string{"Designator", "Quantity", "Fitted", "Part number", "Internal part number", "Manufacturer", "MPN", "Package", "Description", "Category", "Alternates", "Remark"}

const (
	atDesignator = iota
	atQuantity
	atFitted
	atNumber
	atInternal
	atManufacturer
	atMPN
	atPackage
	atDescription
	atCategory
	atAlternates
	atRemark
)

// billRows is a bill of materials of a file, as rows.
type billRows struct {
	layout rows.Layout
	header []string
	rows   []rows.Row
	at     int
}

func (b *billRows) Header() []string    { return b.header }
func (b *billRows) Layout() rows.Layout { return b.layout }
func (b *billRows) Close() error        { return nil }
func (b *billRows) Next() (row rows.Row, ok bool, err error) {
	if b.at == len(b.rows) {
		return row, false, nil
	}
	b.at++
	return b.rows[b.at-1], true, nil
}

// OpenBill reads a bill of materials of a file with its approved vendors (IPC-2581B and C: Bom, Avl) as rows, one for each item, and one more for those of its
// designators that are not populated. Of several bills the one that want names by its sheet is read, or the first. What is not carried over is said.
func OpenBill(r io.ReadCloser, want rows.Layout, lim rows.Limits) (rows.Reader, error) {
	raw, err := io.ReadAll(io.LimitReader(r, lim.Bytes+1))
	r.Close()
	if err != nil {
		return nil, err
	}
	if int64(len(raw)) > lim.Bytes {
		return nil, rows.Errorf("The file has more than %d MB, which is the most that is read. An administrator can raise the limit.", lim.Bytes>>20)
	}
	root, passed, err := tree(raw, around)
	if err != nil {
		return nil, rows.Errorf("The IPC-2581 file was not read: %s.", err)
	}
	var bills []*element
	var called []string
	var taken names.Taken
	root.all("Bom", func(b *element) {
		bills = append(bills, b)
		called = append(called, taken.Free(cmp.Or(b.attr("name"), fmt.Sprintf("bill %d", len(bills))), names.Bracketed))
	})
	if len(bills) == 0 {
		return nil, rows.Errorf("The IPC-2581 file has no bill of materials (Bom): export it with one.")
	}
	which := 0
	if want.Sheet != "" {
		if which = slices.Index(called, want.Sheet); which < 0 {
			return nil, rows.Errorf("The IPC-2581 file has no bill of materials %q; it has %s.", said.Printable(want.Sheet), strings.Join(called, ", "))
		}
	}
	b := &billReader{approved: map[string][]vendor{}, columns: map[string]int{}, limits: lim}
	b.vendors(root)
	b.bill(bills[which])
	if len(b.rows) == 0 {
		return nil, &rows.Error{Sentence: fmt.Sprintf("The bill of materials %s has no items.", called[which]), Cause: rows.NoRows{Header: partHeadings}}
	}
	if len(partHeadings)+len(b.names) > lim.Columns {
		return nil, rows.Errorf("The bill of materials has %d columns; at most %d are read.", len(partHeadings)+len(b.names), lim.Columns)
	}
	out := &billRows{header: append(slices.Clone(partHeadings), b.names...), rows: b.rows}
	for i := range out.rows {
		for len(out.rows[i].Cells) < len(out.header) {
			out.rows[i].Cells = append(out.rows[i].Cells, "")
		}
	}
	out.layout = rows.Layout{Format: "ipc2581", Encoding: "utf-8", Sheet: called[which], HeaderRow: 1, Notes: b.notes(bills[which], passed)}
	if len(called) > 1 {
		out.layout.Sheets = called
		out.layout.Notes = append(out.layout.Notes, fmt.Sprintf("The file has %d bills of materials: %s is read.", len(called), called[which]))
	}
	return out, nil
}

// vendor is one source of an item, as a list of approved vendors has it.
type vendor struct {
	maker, mpn        string
	chosen, qualified bool
	rank              int
}

type billReader struct {
	approved map[string][]vendor // by the item's number
	columns  map[string]int      // characteristics, by name
	names    []string
	rows     []rows.Row
	limits   rows.Limits
}

// vendors reads the lists of approved vendors.
func (b *billReader) vendors(root *element) {
	enterprises := map[string]string{}
	root.find("Enterprise", func(e *element) { enterprises[e.attr("id")] = e.attr("name") })
	root.all("Avl", func(list *element) {
		list.attr("name")
		list.all("AvlItem", func(item *element) {
			n := item.attr("OEMDesignNumber")
			item.all("AvlVmpn", func(v *element) {
				one := vendor{maker: v.attr("evplVendor"), mpn: v.attr("evplMpn"), chosen: v.attr("chosen") == "true", qualified: v.attr("qualified") != "false", rank: 1 << 20}
				if e := v.child("AvlVendor"); e != nil {
					if name, known := enterprises[e.attr("enterpriseRef")]; known {
						one.maker = cmp.Or(name, one.maker)
					}
				}
				if e := v.child("AvlMpn"); e != nil {
					one.mpn = cmp.Or(e.attr("name"), one.mpn)
					if rank, err := strconv.Atoi(e.attr("rank")); err == nil {
						one.rank = rank
					}
				}
				if one.mpn != "" || one.maker != "" {
					b.approved[n] = append(b.approved[n], one)
				}
			})
		})
	})
	for n := range b.approved {
		slices.SortStableFunc(b.approved[n], func(x, y vendor) int { // what was chosen, then by rank
			return cmp.Or(compareBool(y.qualified, x.qualified), compareBool(y.chosen, x.chosen), cmp.Compare(x.rank, y.rank))
		})
	}
}

func compareBool(a, b bool) int {
	switch {
	case a == b:
		return 0
	case a:
		return 1
	}
	return -1
}

func (b *billReader) bill(bill *element) {
	if h := bill.child("BomHeader"); h != nil {
		h.attrs, h.kids = nil, nil // what the board is called
	}
	bill.all("BomItem", func(item *element) {
		cells := make([]string, len(partHeadings)+len(b.names))
		cells[atNumber], cells[atInternal], cells[atDescription], cells[atCategory] = item.attr("OEMDesignNumberRef"), item.attr("internalPartNumber"), item.attr("description"), strings.ToLower(item.attr("category"))
		quantity := strings.TrimSpace(item.attr("quantity"))
		item.attr("pinCount")
		var remarks, packages, on, off []string
		item.all("RefDes", func(d *element) {
			name := d.attr("name")
			if p := d.attr("packageRef"); p != "" && p != NotKnown && !slices.Contains(packages, p) {
				packages = append(packages, p)
			}
			d.attr("layerRef")
			d.attr("modelRef")
			if t := d.child("Tuning"); t != nil {
				remarks = append(remarks, strings.TrimSpace(fmt.Sprintf("%s is tuned: %s %s", name, t.attr("value"), t.attr("comments"))))
			}
			switch strings.ToLower(strings.TrimSpace(d.attr("populate"))) {
			case "false", "0":
				off = append(off, name)
			default:
				on = append(on, name)
			}
		})
		for _, kind := range []string{"MatDes", "DocDes", "ToolDes", "FindDes"} {
			item.all(kind, func(d *element) {
				d.attr("layerRef")
				d.attr("modelRef")
				remarks = append(remarks, strings.TrimSuffix(kind, "Des")+" "+cmp.Or(d.attr("name"), d.attr("number")))
			})
		}
		cells[atPackage] = strings.Join(packages, " / ")
		unit := ""
		item.all("Characteristics", func(c *element) {
			c.attr("category")
			for _, k := range c.kids {
				name, text, ok := characteristic(k)
				switch {
				case !ok:
					continue
				case name == unitOfQuantity:
					unit = text
				case text != "":
					cells = b.put(cells, name, text)
				}
			}
		})
		problem := ""
		for i, v := range b.approved[cells[atNumber]] {
			switch {
			case !v.qualified:
				remarks = append(remarks, strings.TrimSpace("not qualified: "+v.maker+" "+v.mpn))
			case i == 0:
				cells[atManufacturer], cells[atMPN] = v.maker, v.mpn
			default:
				cells[atAlternates] = strings.TrimPrefix(cells[atAlternates]+"; "+strings.TrimSpace(v.maker+" "+v.mpn), "; ")
			}
		}
		cells[atRemark] = strings.Join(remarks, "; ")
		for i, c := range cells {
			if len(c) > b.limits.Cell {
				cells[i], problem = c[:b.limits.Cell], fmt.Sprintf("line %d: a text of the item has more than %d bytes", item.line, b.limits.Cell)
			}
		}
		row := func(list []string, fitted, quantity string) {
			r := slices.Clone(cells)
			r[atDesignator], r[atQuantity], r[atFitted] = strings.Join(list, ", "), quantity, fitted
			b.rows = append(b.rows, rows.Row{Number: len(b.rows) + 2, Cells: r, Problem: problem}) // by item: a file may stand in one line
		}
		if unit != "" && quantity != "" {
			quantity += " " + unit
		}
		switch n, err := strconv.Atoi(quantity); {
		case len(off) == 0:
			row(on, "yes", quantity)
		case len(on) == 0:
			row(off, "no", quantity)
		case err == nil && n == len(on)+len(off): // its quantity counts those that are not populated, too
			row(on, "yes", strconv.Itoa(len(on)))
			row(off, "no", strconv.Itoa(len(off)))
		default:
			row(on, "yes", quantity)
			row(off, "no", strconv.Itoa(len(off)))
		}
	})
}

// put writes a characteristic below its heading; one that stands twice keeps both texts.
func (b *billReader) put(cells []string, name, text string) []string {
	at, ok := b.columns[name]
	if !ok {
		at = len(partHeadings) + len(b.names)
		b.columns[name] = at
		b.names = append(b.names, name)
	}
	for len(cells) <= at {
		cells = append(cells, "")
	}
	if cells[at] != "" && cells[at] != text {
		text = cells[at] + " / " + text
	}
	cells[at] = text
	return cells
}

// characteristic reads a fact of an item: measured, ranged, enumerated or in words.
func characteristic(k *element) (name, text string, ok bool) {
	unit := func() string { return strings.TrimSpace(k.attr("engineeringUnitOfMeasure")) }
	k.attr("definitionSource")
	k.read = true
	switch k.name {
	case "Textual":
		return k.attr("textualCharacteristicName"), k.attr("textualCharacteristicValue"), true
	case "Enumerated":
		return k.attr("enumeratedCharacteristicName"), k.attr("enumeratedCharacteristicValue"), true
	case "Measured":
		name, text = k.attr("measuredCharacteristicName"), strings.TrimSpace(k.attr("measuredCharacteristicValue")+" "+unit())
		minus, plus := strings.TrimLeft(k.attr("engineeringNegativeTolerance"), "-"), strings.TrimLeft(k.attr("engineeringPositiveTolerance"), "+")
		switch {
		case minus == plus && plus != "":
			text += " ±" + plus
		case minus != "" || plus != "":
			text += " +" + cmp.Or(plus, "0") + "/-" + cmp.Or(minus, "0")
		}
		return name, text, true
	case "Ranged":
		name = k.attr("rangedCharacteristicName")
		low, high := k.attr("rangedCharacteristicLowerValue"), k.attr("rangedCharacteristicUpperValue")
		switch {
		case low != "" && high != "":
			text = low + " to " + high
		case low != "":
			text = "≥ " + low
		case high != "":
			text = "≤ " + high
		}
		return name, strings.TrimSpace(text + " " + unit()), true
	}
	k.read = false
	return "", "", false
}

// notes say what of the bill was not carried over.
func (b *billReader) notes(bill *element, passed map[string]int) (out []string) {
	const most = 20
	lost := bill.unread()
	for i, l := range lost {
		if i == most {
			out = append(out, fmt.Sprintf("and %d more things of the bill are not read", len(lost)-most))
			break
		}
		out = append(out, l+" is not read")
	}
	if passed["Ecad"] > 0 {
		out = append(out, "The board's drawing (Ecad) is passed over: only its bill of materials is read.")
	}
	return out
}
