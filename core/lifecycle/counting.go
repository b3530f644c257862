package lifecycle

import (
	"fmt"
	"strconv"
	"strings"
)

// Counting is how revisions are labelled. The number in which they were made is kept beside the label, so that a label is never
// needed to know which of two is newer.
type Counting string

// The ways of counting.
const (
	Numbers    Counting = "numbers"     // 1, 2, 3
	MajorMinor Counting = "major.minor" // 1.0, 1.1, 2.0
	Letters    Counting = "letters"     // A, B, C: ASME Y14.35, clause 7: without I, O, Q, S, X, Z; then AA
)

func (c Counting) check() error {
	if c != Numbers && c != MajorMinor && c != Letters {
		return fmt.Errorf("revisions are counted by %q: use numbers, major.minor or letters", string(c))
	}
	return nil
}

// letters are those of ASME Y14.35, clause 7: what could be read as a figure or as another letter is left out.
const letters = "ABCDEFGHJKLMNPRTUVWY"

// MostLetters is how many revisions can have letters: A to YY.
const MostLetters = len(letters) + len(letters)*len(letters)

// Letter is the label of the n-th revision, from 1.
func Letter(n int) (string, error) {
	switch k := len(letters); {
	case n < 1:
		return "", fmt.Errorf("there is no revision %d", n)
	case n <= k:
		return letters[n-1 : n], nil
	case n <= MostLetters:
		n -= k + 1
		return string([]byte{letters[n/k], letters[n%k]}), nil
	}
	return "", fmt.Errorf("letters end with YY, the %dth revision, and this would be the %dth: count by numbers from now on", MostLetters, n)
}

// Next labels the revision that follows the one labelled last, as the number-th of its thing; last is blank for the first. A label
// is never one that an earlier revision of the thing had, even where the way of counting was changed between: numbers and letters
// follow the number, and a major label steps over both.
func (c Counting) Next(number int, last string, minor bool) (string, error) {
	switch c {
	case Letters:
		return Letter(number)
	case MajorMinor:
		major, small, ok := majorMinor(last)
		switch {
		case ok && minor:
			return fmt.Sprintf("%d.%d", major, small+1), nil
		case ok:
			return fmt.Sprintf("%d.0", major+1), nil
		}
		return fmt.Sprintf("%d.0", number), nil
	}
	return strconv.Itoa(number), nil
}

func majorMinor(label string) (major, minor int, ok bool) {
	a, b, two := strings.Cut(label, ".")
	major, e1 := strconv.Atoi(a)
	minor, e2 := strconv.Atoi(b)
	return major, minor, two && e1 == nil && e2 == nil
}

// Label is how a revision is shown: its label, or its number where it was made before labels were kept.
func Label(number int, label string) string {
	if label == "" && number > 0 {
		return strconv.Itoa(number)
	}
	return label
}
