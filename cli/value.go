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

// valueReading is the JSON form of one reading.
type valueReading struct {
	Text     string            `json:"text"`
	Outcome  string            `json:"outcome"`
	Shown    string            `json:"shown,omitempty"`
	Marking  string            `json:"marking,omitempty"`
	Measure  *measure.Measure  `json:"measure,omitempty"`
	Why      string            `json:"why,omitempty"`
	Possible []measurePossible `json:"possible,omitempty"`
}

type measurePossible struct {
	Shown   string          `json:"shown"`
	If      string          `json:"if"`
	Measure measure.Measure `json:"measure"`
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
			t := table{{"Text", "Outcome", "Read as", "Marking", "Why"}}
			doubts := false
			one := func(text string) error {
				r := readingOf(measure.Parse(text, o))
				doubts = doubts || r.Outcome == "doubt" || r.Outcome == "unreadable"
				if asJSON {
					e := json.NewEncoder(w) // one object a line, so that lines can be streamed
					e.SetEscapeHTML(false)
					return e.Encode(r)
				}
				why := r.Why
				for _, p := range r.Possible {
					why += fmt.Sprintf("; %s if %s", p.Shown, p.If)
				}
				t = append(t, []string{r.Text, r.Outcome, r.Shown, r.Marking, why})
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

func readingOf(r measure.Reading) valueReading {
	out := valueReading{Text: r.Text, Outcome: r.Outcome.String(), Why: r.Why}
	if r.Outcome == measure.Read {
		m := r.Measure
		out.Shown, out.Marking, out.Measure = m.String(), m.Marking(), &m
	}
	for _, p := range r.Possible {
		out.Possible = append(out.Possible, measurePossible{p.Measure.String(), p.If, p.Measure})
	}
	return out
}
