package notice

import (
	"fmt"
	"strings"
	"time"

	"jollydrawer/core/trail"
)

// Told is one notice as it goes into a mail.
type Told struct {
	At    time.Time
	Title string
	Why   string // why the person hears of it
	Link  string // where to look; blank: nowhere
}

// Mail is the text of a mail.
type Mail struct{ Subject, Text string }

// MailOf writes one mail of some notices, oldest first; more is how many there were beside them.
func MailOf(all []Told, more int, settings string) Mail {
	var b strings.Builder
	m := Mail{}
	if len(all) == 1 && more == 0 {
		m.Subject = line(all[0].Title)
	} else {
		m.Subject = fmt.Sprintf("%s notices of the parts library", trail.Grouped(len(all)+more))
	}
	for _, n := range all {
		fmt.Fprintf(&b, "%s  %s\n", n.At.UTC().Format("2006-01-02 15:04 UTC"), line(n.Title))
		if n.Why != "" {
			fmt.Fprintf(&b, "    %s\n", line(n.Why))
		}
		if n.Link != "" {
			fmt.Fprintf(&b, "    %s\n", n.Link)
		}
		b.WriteString("\n")
	}
	if more > 0 {
		fmt.Fprintf(&b, "and %s more: see the console.\n\n", trail.Grouped(more))
	}
	fmt.Fprintf(&b, "-- \nYou get this as you asked for it: %s\n", settings)
	m.Text = b.String()
	return m
}

// line keeps a text on one line: nothing that others wrote may begin a new one.
func line(s string) string {
	return strings.Join(strings.FieldsFunc(s, func(r rune) bool { return r < ' ' || r == 0x7f || r == 0x85 || r == 0x2028 || r == 0x2029 }), " ")
}

// Next is when the digest after a moment goes out: at the next full hour, or the next morning at six (UTC).
func Next(rhythm string, after time.Time) time.Time {
	after = after.UTC()
	if rhythm == "hour" {
		return after.Truncate(time.Hour).Add(time.Hour)
	}
	day := time.Date(after.Year(), after.Month(), after.Day(), 6, 0, 0, 0, time.UTC)
	if !day.After(after) {
		day = day.AddDate(0, 0, 1)
	}
	return day
}

// Pause is how long is waited before the next try after some that failed, each four times as long as the one before; ok is false
// where it is given up: after eight tries, which took about fifteen hours.
func Pause(tries int) (pause time.Duration, ok bool) {
	if tries >= 8 {
		return 0, false
	}
	return 10 * time.Second << (2 * max(tries-1, 0)), true
}
