package crosswalk

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

func TestARuleThatIsWrongSaysWhatIsWrong(t *testing.T) {
	for _, one := range []struct {
		rule Rule
		says string // blank: it is right
	}{
		{Rule{From: "A", To: "x"}, ""},
		{Rule{Combine: "{A} x {B}", To: "x"}, ""},
		{Rule{Constant: "0603", To: "x"}, ""},
		{Rule{From: "A"}, "lacks its from or its to"},
		{Rule{To: "x"}, "lacks its from or its to"},
		{Rule{From: "A", Combine: "{B}", To: "x"}, "more than one of from, combine and constant"},
		{Rule{From: "A", Constant: "1", To: "x"}, "more than one of from, combine and constant"},
		{Rule{Combine: "L x W", To: "x"}, "combines no field"},
		{Rule{Combine: "{L x W", To: "x"}, "combines no field"},
		{Rule{From: "A", To: "x", System: "inch"}, ""},
		{Rule{From: "A", To: "x", System: "metric"}, ""},
		{Rule{From: "A", To: "x", System: "feet"}, `case system "feet"`},
		{Rule{From: "A", To: "x", Mark: "comma"}, ""},
		{Rule{From: "A", To: "x", Mark: "point"}, ""},
		{Rule{From: "A", To: "x", Mark: ","}, `decimal mark ","`},
		{Rule{From: "A", To: "x", Memory: "binary"}, ""},
		{Rule{From: "A", To: "x", Memory: "decimal"}, ""},
		{Rule{From: "A", To: "x", Memory: "1024"}, `memory "1024"`},
		{Rule{From: "A", To: "x", End: "low"}, ""},
		{Rule{From: "A", To: "x", End: "high"}, ""},
		{Rule{From: "A", To: "x", End: "middle"}, `end "middle"`},
		{Rule{From: "A", To: "x", Piece: &Piece{After: "a"}}, ""},
		{Rule{From: "A", To: "x", Piece: &Piece{Before: "b"}}, ""},
		{Rule{From: "A", To: "x", Piece: &Piece{After: "a", Before: "b"}}, ""},
		{Rule{From: "A", To: "x", Piece: &Piece{Word: -1}}, ""},
		{Rule{From: "A", To: "x", Piece: &Piece{Fact: true}}, ""},
		{Rule{From: "A", To: "x", Piece: &Piece{}}, "takes a piece"},
		{Rule{From: "A", To: "x", Piece: &Piece{After: "a", Word: 1}}, "takes a piece"},
		{Rule{From: "A", To: "x", Piece: &Piece{Fact: true, Word: 1}}, "takes a piece"},
		{Rule{From: "A", To: "x", Piece: &Piece{Fact: true, Before: "b"}}, "takes a piece"},
	} {
		if err := one.rule.check(); one.says == "" {
			assert.NoError(t, err, "%+v", one.rule)
		} else {
			assert.ErrorContains(t, err, one.says, "%+v", one.rule)
		}
	}
}

func TestAPieceIsCutWhereItsMarksAre(t *testing.T) {
	for _, one := range []struct {
		piece      Piece
		text, want string
	}{
		{Piece{Word: 1}, "a b c", "a"}, {Piece{Word: 3}, "a b c", "c"}, {Piece{Word: 4}, "a b c", ""},
		{Piece{Word: -1}, "a b c", "c"}, {Piece{Word: -3}, "a b c", "a"}, {Piece{Word: -4}, "a b c", ""},
		{Piece{Word: 1}, "", ""},
		{Piece{After: "/"}, "a/b/c", "b/c"}, {Piece{After: "/"}, "abc", ""},
		{Piece{Before: "/"}, "a /b", "a"}, {Piece{Before: "/"}, "abc", ""},
		{Piece{After: "(", Before: ")"}, "x (1 W) y", "1 W"}, {Piece{After: "(", Before: ")"}, "x (1 W", "1 W"}, {Piece{After: "(", Before: ")"}, "x 1 W)", ""},
		{Piece{Fact: true}, "a b", "a b"},
	} {
		assert.Equal(t, one.want, one.piece.of(one.text), "%+v of %q", one.piece, one.text)
	}
}

func TestFieldsAreCombinedAsTheyAreWritten(t *testing.T) {
	cells := map[string]string{"L": " 3 ", "W": "1.5", "trick": "{W}", "none": ""}
	cell := func(f string) string { return cells[f] }
	for combine, want := range map[string]string{
		"{L} x {W} mm": "3 x 1.5 mm", "{L}{W}": "31.5", "{L} x {L}": "3 x 3", "at {none} {W}": "at 1.5", "{none}": "", "{none} x {gone}": "",
		"{trick} x {W}": "{W} x 1.5", // a cell is a text, whatever it looks like
		"{W} {":         "1.5 {",
	} {
		r := Rule{Combine: combine, To: "x"}
		assert.Equal(t, want, r.Written(cell), combine)
	}
	assert.Equal(t, []string{"L", "W", "L"}, Rule{Combine: "{L} {W} {L} {"}.Inputs())
	assert.Equal(t, []string{"A"}, Rule{From: "A", To: "x"}.Inputs())
	assert.Empty(t, Rule{Constant: "{A}"}.Inputs())
	assert.Equal(t, " 3 ", Rule{From: "L"}.Written(cell))
	assert.Equal(t, "{A}", Rule{Constant: "{A}"}.Written(cell))
}

func TestTwoRulesAreTheSameWhereOneWouldTakeTheOthersPlace(t *testing.T) {
	r := Rule{From: "A", To: "x", Drawers: []string{"d", "e"}}
	for _, one := range []struct {
		other Rule
		same  bool
	}{
		{Rule{From: "A", To: "x", Drawers: []string{"d", "e"}, Unit: "mm"}, true},
		{Rule{From: "B", To: "x", Drawers: []string{"d", "e"}}, false},
		{Rule{From: "A", To: "y", Drawers: []string{"d", "e"}}, false},
		{Rule{From: "A", To: "x", Drawers: []string{"d"}}, false},
		{Rule{From: "A", To: "x"}, false},
		{Rule{From: "A", Combine: "{A}", To: "x", Drawers: []string{"d", "e"}}, false},
		{Rule{From: "A", Constant: "1", To: "x", Drawers: []string{"d", "e"}}, false},
	} {
		assert.Equal(t, one.same, r.Same(one.other), "%+v", one.other)
		assert.Equal(t, one.same, one.other.Same(r), "%+v", one.other)
	}
	assert.True(t, Rule{Constant: "1", To: "x"}.Same(Rule{Constant: "2", To: "x"}), "another constant takes the place of the first")
}

func TestOneFactIsTakenFromATextAndSeveralAreAsked(t *testing.T) {
	starter, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	for _, one := range []struct{ to, text, value, problem string }{
		{"case", "RES 0603 4k7", "0603", ""},
		{"case", "0603 (1608 metric)", "0603", ""},
		{"case-metric", "0603 (1608 metric)", "1608", ""},
		{"case", "0603 or 0805", "", "several-values"},
		{"case", "no case here", "", ""},
		{"dielectric", "ceramic X7R 50V", "X7R", ""},
		{"dielectric", "ceramic x7r, X7R 50V", "X7R", ""},
		{"dielectric", "X7R or X5R", "", "several-values"},
		{"dielectric", "X7RX", "", ""},
		{"resistance", "4k7 1 % 0.125 W", "4.7 kΩ", ""},
		{"tolerance", "4k7 1 % 0.125 W", "±1 %", ""},
		{"tolerance", "4k7 ±5% 0.125 W", "±5 %", ""},
		{"power", "4k7 1 % 0.125 W", "125 mW", ""},
		{"voltage-rating", "4k7 1 % 0.125 W", "", ""},
		{"voltage-rating", "25 V and 25V", "25 V", ""},
		{"capacitance", "1uF 50V 2uF", "", "several-values"},
	} {
		p, ok := starter.Parameter(one.to)
		require.True(t, ok, one.to)
		v, _, problem := Rule{From: "D", To: one.to, Piece: &Piece{Fact: true}}.Read(p, one.text, measure.MarkUnknown)
		if one.problem != "" {
			require.NotNil(t, problem, "%+v: %s", one, v)
			assert.Equal(t, one.problem, problem.Kind)
			continue
		}
		require.Nil(t, problem, "%+v", one)
		assert.Equal(t, one.value, v.String(), "%+v", one)
	}
}

func TestARangesEndIsTakenOnlyFromARange(t *testing.T) {
	starter, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	p, _ := starter.Parameter("voltage-rating")
	for _, one := range []struct{ end, text, want, note string }{
		{"low", "2.7 V to 5.5 V", "2.7 V", "the low end of 2.7 to 5.5 V"},
		{"high", "2.7 V to 5.5 V", "5.5 V", "the high end of 2.7 to 5.5 V"},
		{"high", "5 V", "5 V", ""},
		{"", "2.7 V to 5.5 V", "2.7 to 5.5 V", ""},
	} {
		v, note, problem := Rule{From: "D", To: p.Key, End: one.end}.Read(p, one.text, measure.MarkPoint)
		require.Nil(t, problem)
		assert.Equal(t, one.want, v.String())
		assert.Equal(t, one.note, note)
	}
}
