package ipc2581

import (
	"cmp"
	"fmt"
	"io"
	"strconv"
	"strings"
)

// Bill is a bill of materials to write: of a board, or of one variant of it.
type Bill struct {
	Name     string
	Assembly string // what it makes
	Revision string
	Items    []BillItem
}

// BillItem is one item of a bill.
type BillItem struct {
	Number      string // the house's own; unique names are made for items without one
	Description string
	Designators []string
	Populate    bool
	Pieces      int    // of one board
	Amount      string // in place of pieces, a number
	Unit        string // of the amount
	Category    string // ELECTRICAL, MECHANICAL, DOCUMENT, MATERIAL, PROGRAMMABLE
	Package     string
	Layer       string      // where it is placed
	Texts       [][2]string // characteristics in words
	Sources     []Source    // approved, the first is chosen
}

// Source is a part that may be bought.
type Source struct{ Manufacturer, MPN string }

// WriteBills writes bills of materials with their list of approved vendors (IPC-2581C, FunctionMode BOM). Where the form asks for a package or a layer that a bill does not
// know, NotKnown stands.
func WriteBills(w io.Writer, bills []Bill, owner string) error {
	var body, avl strings.Builder
	enterprises, list := map[string]string{}, strings.Builder{}
	enterprise := func(name string) string {
		id, ok := enterprises[name]
		if !ok {
			id = fmt.Sprintf("E%d", len(enterprises)+1)
			enterprises[name] = id
			fmt.Fprintf(&list, "  <Enterprise id=\"%s\" name=\"%s\" code=\"NONE\"/>\n", id, quoted(name))
		}
		return id
	}
	enterprise(cmp.Or(owner, "the house"))
	listed := map[string]bool{}
	refs := ""
	for _, b := range bills {
		refs += fmt.Sprintf("  <BomRef name=\"%s\"/>\n", quoted(b.Name))
		fmt.Fprintf(&body, " <Bom name=\"%s\">\n  <BomHeader assembly=\"%s\" revision=\"%s\"/>\n", quoted(b.Name), quoted(b.Assembly), quoted(b.Revision))
		for n, i := range b.Items {
			i.Number = cmp.Or(i.Number, fmt.Sprintf("item %d", n+1))
			body.WriteString(i.item())
			if len(i.Sources) == 0 || listed[i.Number] {
				continue
			}
			listed[i.Number] = true
			fmt.Fprintf(&avl, "  <AvlItem OEMDesignNumber=\"%s\">\n", quoted(i.Number))
			for k, s := range i.Sources {
				fmt.Fprintf(&avl, "   <AvlVmpn qualified=\"true\" chosen=\"%t\">\n    <AvlMpn name=\"%s\" rank=\"%d\"/>\n    <AvlVendor enterpriseRef=\"%s\"/>\n   </AvlVmpn>\n", k == 0, quoted(s.MPN), k+1, enterprise(cmp.Or(s.Manufacturer, "not known")))
			}
			avl.WriteString("  </AvlItem>\n")
		}
		body.WriteString(" </Bom>\n")
	}
	vendors := ""
	if avl.Len() > 0 {
		refs += "  <AvlRef name=\"approved\"/>\n"
		vendors = fmt.Sprintf(" <Avl name=\"approved\">\n  <AvlHeader title=\"Approved sources\" source=\"%s\"/>\n%s </Avl>\n", quoted(owner), avl.String())
	}
	_, err := fmt.Fprintf(w, `<?xml version="1.0" encoding="UTF-8"?>
<IPC-2581 revision="C" xmlns="http://webstds.ipc.org/2581">
 <Content roleRef="Owner">
  <FunctionMode mode="BOM"/>
%s </Content>
 <LogisticHeader>
  <Role id="Owner" roleFunction="OWNER"/>
%s  <Person name="%s" enterpriseRef="E1" roleRef="Owner"/>
 </LogisticHeader>
%s%s</IPC-2581>
`, refs, list.String(), quoted(cmp.Or(owner, "the house")), body.String(), vendors)
	return err
}

// item writes one item.
func (i BillItem) item() string {
	var b strings.Builder
	category := cmp.Or(i.Category, "ELECTRICAL")
	quantity := cmp.Or(i.Amount, strconv.Itoa(i.Pieces))
	fmt.Fprintf(&b, "  <BomItem OEMDesignNumberRef=\"%s\" quantity=\"%s\" category=\"%s\" description=\"%s\">\n", quoted(i.Number), quantity, category, quoted(i.Description))
	for _, d := range i.Designators {
		fmt.Fprintf(&b, "   <RefDes name=\"%s\" packageRef=\"%s\" populate=\"%t\" layerRef=\"%s\"/>\n", quoted(d), quoted(cmp.Or(i.Package, NotKnown)), i.Populate, quoted(cmp.Or(i.Layer, NotKnown)))
	}
	texts := i.Texts
	if i.Unit != "" {
		texts = append(texts[:len(texts):len(texts)], [2]string{unitOfQuantity, i.Unit})
	}
	if len(texts) > 0 {
		fmt.Fprintf(&b, "   <Characteristics category=\"%s\">\n", category)
		for _, t := range texts {
			if t[1] != "" {
				fmt.Fprintf(&b, "    <Textual definitionSource=\"%s\" textualCharacteristicName=\"%s\" textualCharacteristicValue=\"%s\"/>\n", quoted(i.Number), quoted(t[0]), quoted(t[1]))
			}
		}
		b.WriteString("   </Characteristics>\n")
	}
	b.WriteString("  </BomItem>\n")
	return b.String()
}
