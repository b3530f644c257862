package cli

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"os"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/core/measure"
)

// valueReading is the JSON form of one reading, documented in docs/documents.md. Numbers are decimal texts in the
// base unit, which "unit" names by its UCUM code.
type valueReading struct {
	Text    string `json:"text"`
	Outcome string `json:"outcome"`
	*valueForm
	Why      string          `json:"why,omitempty"`
	Possible []valueForm     `json:"possible,omitempty"`
	Facts    []valueFact     `json:"facts,omitempty"`
	Tally    []measure.Shown `json:"tally,omitempty"`
}

// valueForm is what a text was read as, or may be read as.
type valueForm struct {
	If        string           `json:"if,omitempty"`
	Of        string           `json:"of,omitempty"`
	Shape     string           `json:"shape,omitempty"`
	Value     *measure.Number  `json:"value,omitempty"`
	Low       *measure.Number  `json:"low,omitempty"`
	High      *measure.Number  `json:"high,omitempty"`
	Items     []measure.Number `json:"items,omitempty"`
	Minus     *measure.Number  `json:"minus,omitempty"`
	Plus      *measure.Number  `json:"plus,omitempty"`
	Tolerance string           `json:"tolerance,omitempty"`
	Typical   *measure.Number  `json:"typical,omitempty"`
	Condition string           `json:"condition,omitempty"`
	Unit      string           `json:"unit,omitempty"`
	Note      string           `json:"note,omitempty"`
	Shown     string           `json:"shown,omitempty"`
	Marking   string           `json:"marking,omitempty"`
	Series    string           `json:"series,omitempty"`
	Inch      string           `json:"inch,omitempty"`
	Metric    string           `json:"metric,omitempty"`
}

// valueFact is one of several facts in a text, with its place in bytes.
type valueFact struct {
	From int `json:"from"`
	To   int `json:"to"`
	valueReading
}

func valueCommand() *ucli.Command {
	return &ucli.Command{Name: "value", Usage: "say how a value is read; needs no service", ArgsUsage: "TEXT... or - for lines from standard input", Category: "library",
		Description: "Example:\n  jolly value --of capacitance 100n '0,1 µF' '1,000 µF'",
		Flags: []ucli.Flag{&ucli.StringFlag{Name: "of", Usage: "the kind wanted, such as resistance"}, &ucli.StringFlag{Name: "unit", Usage: "unit to assume where none is written"},
			&ucli.StringFlag{Name: "decimal", Usage: "the decimal mark of the source: comma or point"}},
		Action: func(_ context.Context, c *ucli.Command) error {
			o := measure.Options{Unit: c.String("unit")}
			if of := c.String("of"); of != "" {
				d, ok := measure.ParseDimension(of)
				if !ok {
					return Usage("%q is no kind of measure: use one of %s", of, strings.Join(measure.Dimensions(), ", "))
				}
				o.Of = d
			}
			switch c.String("decimal") {
			case "":
			case "comma":
				o.Mark = measure.MarkComma
			case "point":
				o.Mark = measure.MarkPoint
			default:
				return Usage("--decimal is comma or point")
			}
			if c.NArg() == 0 {
				return Usage("value needs a text, such as 4k7")
			}
			asJSON := c.Bool("json") || c.String("as") == "json"
			w := c.Root().Writer
			t := table{{"Text", "Outcome", "Read as", "Marking", "Series", "Taken for, and why"}}
			doubts := false
			one := func(text string) error {
				r := readingOf(text, o)
				doubts = doubts || r.Outcome == "doubt" || r.Outcome == "unreadable"
				if asJSON {
					e := json.NewEncoder(w) // one object a line, so that lines can be streamed
					e.SetEscapeHTML(false)
					return e.Encode(r)
				}
				t = append(t, r.row())
				for _, f := range r.Facts {
					row := f.row()
					row[0] = "  " + row[0]
					t = append(t, row)
				}
				return nil
			}
			texts := c.Args().Slice()
			if len(texts) == 1 && texts[0] == "-" {
				in := bufio.NewScanner(os.Stdin)
				in.Buffer(nil, 1<<20)
				for in.Scan() {
					if err := one(in.Text()); err != nil {
						return err
					}
				}
				if err := in.Err(); err != nil {
					return err
				}
			} else {
				for _, text := range texts {
					if err := one(text); err != nil {
						return err
					}
				}
			}
			if !asJSON {
				if err := emit(c, nil, func() table { return t }); err != nil {
					return err
				}
			}
			if doubts {
				return ErrFindings
			}
			return nil
		}}
}

// row is one line of the table.
func (r valueReading) row() []string {
	why := r.Why
	if r.Outcome == "read" {
		var taken []string
		for _, p := range r.Tally {
			if p.As != "separator" {
				taken = append(taken, p.Text+" "+p.As)
			}
		}
		why = strings.Join(taken, ", ")
	}
	for _, p := range r.Possible {
		why += fmt.Sprintf("; %s if %s", p.Shown, p.If)
	}
	if r.valueForm == nil {
		return []string{r.Text, r.Outcome, "", "", "", why}
	}
	return []string{r.Text, r.Outcome, r.Shown, r.Marking, r.Series, why}
}

// readingOf reads a text as one value or, where no kind is wanted and it holds several facts, as those.
func readingOf(text string, o measure.Options) valueReading {
	r := measure.Parse(text, o)
	if o.Of != measure.None || r.Outcome == measure.Absent {
		return formOf(text, r, measure.Case{}, o)
	}
	facts := measure.Facts(text, o)
	if len(facts) == 1 && !facts[0].Word {
		return formOf(text, facts[0].Reading, facts[0].Case, o)
	}
	if r.Outcome != measure.Unreadable || len(facts) < 2 {
		return formOf(text, r, measure.Case{}, o)
	}
	out := valueReading{Text: text, Outcome: "read", valueForm: &valueForm{Shape: "facts", Shown: fmt.Sprintf("%d facts", len(facts))}}
	known := 0
	for _, f := range facts {
		v := formOf(text[f.From:f.To], f.Reading, f.Case, o)
		if f.Word {
			v = valueReading{Text: v.Text, Outcome: "unreadable", Why: "a word"}
		} else {
			known++
		}
		if v.Outcome == "doubt" {
			out.Outcome, out.Why = "doubt", "one of its facts is a doubt"
		}
		out.Facts = append(out.Facts, valueFact{f.From, f.To, v})
	}
	if known == 0 {
		return formOf(text, r, measure.Case{}, o)
	}
	return out
}

func formOf(text string, r measure.Reading, c measure.Case, o measure.Options) valueReading {
	out := valueReading{Text: text, Outcome: r.Outcome.String(), Why: r.Why}
	var tally measure.Tally
	if o.Tally = &tally; c == (measure.Case{}) && measure.Parse(text, o).Outcome == r.Outcome {
		out.Tally = tally.Pieces(text)
	}
	if r.Outcome == measure.Read {
		f := valueFormOf(r.Measure, c)
		out.valueForm = &f
	}
	for _, p := range r.Possible {
		f := valueFormOf(p.Measure, p.Case)
		f.If = p.If
		out.Possible = append(out.Possible, f)
	}
	return out
}

func valueFormOf(m measure.Measure, c measure.Case) valueForm {
	if c != (measure.Case{}) {
		return valueForm{Shape: "case", Inch: c.Inch, Metric: c.Metric, Shown: c.String()}
	}
	f := valueForm{Of: m.Of.String(), Shape: m.Shape.String(), Unit: m.Of.UCUM(), Note: m.Note, Condition: m.Cond, Shown: m.String(), Marking: m.Marking(), Tolerance: m.Tol.String()}
	switch m.Shape {
	case measure.Nominal:
		f.Value = &m.Low
	case measure.List, measure.Ranges, measure.Sizes:
		f.Items = m.Each()
	case measure.Range:
		f.Low, f.High = &m.Low, &m.High
	case measure.AtLeast, measure.Above:
		f.Low = &m.Low
	case measure.AtMost, measure.Below:
		f.High = &m.High
	}
	if m.HasTyp {
		f.Typical = &m.Typ
	}
	if m.Tol != measure.NoTol {
		f.Minus, f.Plus = &m.Minus, &m.Plus
	}
	if m.Shape == measure.Deviation {
		f.Unit = ""
		if m.Tol == measure.Absolute {
			f.Unit = m.Of.UCUM()
		}
	}
	if m.Shape == measure.Nominal && (m.Of == measure.Resistance || m.Of == measure.Capacitance || m.Of == measure.Inductance) {
		if s, ok := measure.SeriesOf(m.High); ok {
			f.Series = s.String()
		}
	}
	return f
}
