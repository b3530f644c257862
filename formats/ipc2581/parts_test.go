package ipc2581

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/formats/formatstest"
	"jollydrawer/formats/rows"
)

func openBill(r io.ReadCloser, lim rows.Limits) (rows.Reader, error) {
	return OpenBill(r, rows.Layout{}, lim)
}

// written is a bill as another tool writes it: with fewer attributes, other sections around it, and a list of vendors of its own form.
const foreign = `<?xml version="1.0" encoding="UTF-8"?>
<!-- written elsewhere -->
<ipc:IPC-2581 revision="B" xmlns:ipc="http://webstds.ipc.org/2581">
 <ipc:Content roleRef="Owner"><ipc:FunctionMode mode="ASSEMBLY"/><ipc:StepRef name="top"/></ipc:Content>
 <ipc:LogisticHeader><ipc:Enterprise id="TWX" name="Tidewright" code="1"/><ipc:Enterprise id="KLX" name="Kelpline" code="2"/></ipc:LogisticHeader>
 <ipc:Bom name="gauge">
  <ipc:BomHeader assembly="gauge" revision="B" affecting="true"><ipc:StepRef name="top"/></ipc:BomHeader>
  <ipc:BomItem OEMDesignNumberRef="EW-R-1" quantity="3" pinCount="2" category="ELECTRICAL" description="RES 4k7">
   <ipc:RefDes name="R1" packageRef="R0603" populate="true" layerRef="TOP"/>
   <ipc:RefDes name="R2" packageRef="R0603" populate="false" layerRef="BOTTOM"/>
   <ipc:RefDes packageRef="R0603" layerRef="TOP" populate="true" name="R7"/>
   <ipc:Characteristics category="ELECTRICAL">
    <ipc:Measured measuredCharacteristicName="RESISTANCE" measuredCharacteristicValue="4.7" engineeringUnitOfMeasure="kΩ" engineeringNegativeTolerance="1%" engineeringPositiveTolerance="1%"/>
    <ipc:Ranged rangedCharacteristicName="TEMPERATURE" rangedCharacteristicLowerValue="-40" rangedCharacteristicUpperValue="85" engineeringUnitOfMeasure="°C"/>
    <ipc:Textual textualCharacteristicName="VALUE" textualCharacteristicValue="4k7"/>
   </ipc:Characteristics>
  </ipc:BomItem>
  <ipc:BomItem OEMDesignNumberRef="EW-C-2" quantity="1" category="ELECTRICAL"><ipc:RefDes name="C1" packageRef="C0603" populate="true" layerRef="TOP"><ipc:Tuning value="22p" comments="on test"/></ipc:RefDes><ipc:Colour name="blue"/></ipc:BomItem>
  <ipc:BomItem OEMDesignNumberRef="GLUE" quantity="2" category="MATERIAL" description="glue" internalPartNumber="77" shade="red"><ipc:MatDes name="M1" layerRef="TOP"/></ipc:BomItem>
 </ipc:Bom>
 <ipc:Bom name="gauge, lite"><ipc:BomHeader assembly="gauge" revision="B"/><ipc:BomItem OEMDesignNumberRef="EW-R-1" quantity="1" category="ELECTRICAL"><ipc:RefDes name="R1" populate="true"/></ipc:BomItem></ipc:Bom>
 <ipc:Ecad name="top"><ipc:CadData><ipc:Step name="top"><ipc:Package name="R0603"/></ipc:Step></ipc:CadData></ipc:Ecad>
 <ipc:Avl name="vendors"><ipc:AvlHeader title="x"/>
  <ipc:AvlItem OEMDesignNumber="EW-R-1">
   <ipc:AvlVmpn qualified="false" chosen="false"><ipc:AvlMpn name="BAD-1" rank="1"/><ipc:AvlVendor enterpriseRef="KLX"/></ipc:AvlVmpn>
   <ipc:AvlVmpn qualified="true" chosen="false"><ipc:AvlMpn name="KL-4K7" rank="1"/><ipc:AvlVendor enterpriseRef="KLX"/></ipc:AvlVmpn>
   <ipc:AvlVmpn qualified="true" chosen="true"><ipc:AvlMpn name="TW-4K7" rank="2"/><ipc:AvlVendor enterpriseRef="TWX"/></ipc:AvlVmpn>
  </ipc:AvlItem>
  <ipc:AvlItem OEMDesignNumber="EW-C-2"><ipc:AvlVmpn evplVendor="Kelpline" evplMpn="KL-22P"/></ipc:AvlItem>
 </ipc:Avl>
</ipc:IPC-2581>`

var foreignRows = []string{
	"Designator|Quantity|Fitted|Part number|Internal part number|Manufacturer|MPN|Package|Description|Category|Alternates|Remark|RESISTANCE|TEMPERATURE|VALUE",
	"R1, R7|2|yes|EW-R-1||Tidewright|TW-4K7|R0603|RES 4k7|electrical|Kelpline KL-4K7|not qualified: Kelpline BAD-1|4.7 kΩ ±1%|-40 to 85 °C|4k7",
	"R2|1|no|EW-R-1||Tidewright|TW-4K7|R0603|RES 4k7|electrical|Kelpline KL-4K7|not qualified: Kelpline BAD-1|4.7 kΩ ±1%|-40 to 85 °C|4k7",
	"C1|1|yes|EW-C-2||Kelpline|KL-22P|C0603||electrical||C1 is tuned: 22p on test|||",
	"|2|yes|GLUE|77||||glue|material||Mat M1|||",
}

func TestBillReaderKeepsWhatAllReadersKeep(t *testing.T) {
	formatstest.Test(t, formatstest.Reader{Good: []byte(foreign), Want: foreignRows, Places: `line \d+`, Read: formatstest.Rows(openBill, rows.DefaultLimits)})
	wide := strings.NewReplacer("RES 4k7", "something long").Replace(foreign)
	formatstest.Limits(t, openBill, []byte(wide))
}

// What is not carried over is said, and of several bills it is said which is read.
func TestWhatABillDoesNotCarryOverIsSaid(t *testing.T) {
	x, err := openBill(io.NopCloser(strings.NewReader(foreign)), rows.DefaultLimits)
	require.NoError(t, err)
	notes := strings.Join(x.Layout().Notes, "\n")
	for _, want := range []string{"Colour in BomItem is not read", `shade="red" of BomItem is not read`, "The board's drawing (Ecad) is passed over", "The file has 2 bills of materials: gauge is read."} {
		assert.Contains(t, notes, want)
	}
	assert.Equal(t, []string{"gauge", "gauge, lite"}, x.Layout().Sheets)
	other, err := OpenBill(io.NopCloser(strings.NewReader(foreign)), rows.Layout{Sheet: "gauge, lite"}, rows.DefaultLimits)
	require.NoError(t, err)
	row, ok, err := other.Next()
	require.True(t, ok && err == nil)
	assert.Equal(t, "R1", row.Cells[0])
	for want, text := range map[string]string{
		"has no bill of materials (Bom)":     strings.NewReplacer("ipc:Bom ", "ipc:Other ", "ipc:Bom>", "ipc:Other>").Replace(foreign),
		"The bill of materials gauge has no": regexp.MustCompile(`(?s)<ipc:BomItem.*?</ipc:BomItem>`).ReplaceAllString(foreign, ""),
		"declares a document type":           strings.Replace(foreign, "<!-- written elsewhere -->", `<!DOCTYPE x [<!ENTITY a "b">]>`, 1),
		`no bill of materials "nobody"; it`:  "",
		"ends within an element":             foreign[:len(foreign)-30],
	} {
		layout := rows.Layout{}
		if text == "" {
			text, layout.Sheet = foreign, "nobody"
		}
		_, err := OpenBill(io.NopCloser(strings.NewReader(text)), layout, rows.DefaultLimits)
		assert.ErrorContains(t, err, want)
	}
}

// dialect writes the same bill as others would: another order of attributes, prefixes, one line, UTF-16.
func dialect(t *rapid.T, text string) []byte {
	attr := regexp.MustCompile(` ([A-Za-z]+)="([^"]*)"`)
	if rapid.Bool().Draw(t, "turned") {
		text = regexp.MustCompile(`<(BomItem|RefDes|Textual|AvlVmpn|AvlMpn)((?: [A-Za-z]+="[^"]*")+)`).ReplaceAllStringFunc(text, func(tag string) string {
			list := attr.FindAllString(tag, -1)
			slices.Reverse(list)
			return tag[:strings.IndexByte(tag, ' ')] + strings.Join(list, "")
		})
	}
	if rapid.Bool().Draw(t, "prefixed") {
		text = regexp.MustCompile(`<(/?)([A-Z])`).ReplaceAllString(text, "<${1}p:$2")
		text = strings.Replace(text, "xmlns=", "xmlns:p=", 1)
	}
	if rapid.Bool().Draw(t, "in one line") {
		text = strings.ReplaceAll(text, "\n", " ")
	}
	switch rapid.IntRange(0, 3).Draw(t, "encoding") {
	case 0:
		var out bytes.Buffer
		_ = binary.Write(&out, binary.LittleEndian, utf16.Encode([]rune("\ufeff"+strings.Replace(text, "UTF-8", "UTF-16", 1))))
		return out.Bytes()
	case 1:
		return []byte("\ufeff" + text)
	}
	return []byte(text)
}

// What is written as bills comes back as it was, in any dialect.
func TestBillsComeBackAsTheyWere(t *testing.T) {
	word := rapid.SampledFrom([]string{"EW-R-1", "a & b", `"4k7"`, "<x>", "Ω ±1 %", "tide/7", "", "100 nF", "'"})
	rapid.Check(t, func(t *rapid.T) {
		var items []BillItem
		var want []string
		texts := []string{"Value", "Remark of the house"}
		for n := range rapid.IntRange(1, 8).Draw(t, "items") {
			i := BillItem{Number: fmt.Sprintf("EW-%d%s", n, word.Draw(t, "number")), Description: word.Draw(t, "description"), Populate: rapid.Bool().Draw(t, "populate"), Package: word.Draw(t, "package")}
			for k := range rapid.IntRange(0, 4).Draw(t, "designators") {
				i.Designators = append(i.Designators, fmt.Sprintf("R%d", 10*n+k))
			}
			if len(i.Designators) == 0 { // the form says of designators whether they are populated, and of which package
				i.Populate, i.Package = true, ""
			}
			i.Pieces = len(i.Designators)
			quantity := fmt.Sprint(i.Pieces)
			if i.Pieces == 0 && rapid.Bool().Draw(t, "amount") {
				i.Amount, i.Unit, quantity = "0.3", "m", "0.3 m"
			}
			values := []string{word.Draw(t, "value"), word.Draw(t, "text")}
			for k, v := range values {
				i.Texts = append(i.Texts, [2]string{texts[k], v})
			}
			alternates, maker, mpn := []string{}, "", ""
			for k := range rapid.IntRange(0, 3).Draw(t, "sources") {
				s := Source{fmt.Sprintf("Maker %d", k), "MPN-" + word.Draw(t, "mpn")}
				i.Sources = append(i.Sources, s)
				if k == 0 {
					maker, mpn = s.Manufacturer, s.MPN
				} else {
					alternates = append(alternates, s.Manufacturer+" "+s.MPN)
				}
			}
			items = append(items, i)
			want = append(want, strings.Join([]string{strings.Join(i.Designators, ", "), quantity, map[bool]string{true: "yes", false: "no"}[i.Populate], i.Number, "", maker, mpn, i.Package, i.Description, "electrical", strings.Join(alternates, "; "), "", values[0], values[1]}, "|"))
		}
		var out bytes.Buffer
		if err := WriteBills(&out, []Bill{{Name: "gauge", Assembly: "gauge", Revision: "1", Items: items}}, "Estuary Watch"); err != nil {
			t.Fatal(err)
		}
		raw := dialect(t, out.String())
		if !Is(raw) {
			t.Fatal("it does not look like one")
		}
		x, err := openBill(io.NopCloser(bytes.NewReader(raw)), rows.DefaultLimits)
		if err != nil {
			t.Fatal(err)
		}
		if len(x.Layout().Notes) > 0 {
			t.Fatalf("%q", x.Layout().Notes)
		}
		at := []int{slices.Index(x.Header(), texts[0]), slices.Index(x.Header(), texts[1])}
		for k := 0; ; k++ {
			row, ok, err := x.Next()
			if err != nil {
				t.Fatal(err)
			}
			if !ok {
				break
			}
			cells := slices.Clone(row.Cells[:len(partHeadings)])
			for _, i := range at {
				if i < 0 {
					cells = append(cells, "")
				} else {
					cells = append(cells, row.Cells[i])
				}
			}
			if got := strings.Join(cells, "|"); got != want[k] {
				t.Fatalf("%s\nbecame\n%s\nof %s", want[k], got, raw)
			}
		}
	})
}

// A hostile file ends in a sentence, or in rows as wide as their headings.
func FuzzBills(f *testing.F) {
	f.Add([]byte(foreign))
	f.Add([]byte(`<IPC-2581><Bom name="x"><BomItem quantity="1"><RefDes name="R1"/></BomItem></Bom></IPC-2581>`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		x, err := openBill(io.NopCloser(bytes.NewReader(raw)), rows.Limits{Bytes: 1 << 20, Columns: 100, Cell: 1 << 10})
		if err != nil {
			return
		}
		seen := map[int]bool{}
		for {
			row, ok, err := x.Next()
			if err != nil || !ok {
				return
			}
			if len(row.Cells) != len(x.Header()) || seen[row.Number] {
				t.Fatalf("row %d: %q below %q", row.Number, row.Cells, x.Header())
			}
			seen[row.Number] = true
		}
	})
}
