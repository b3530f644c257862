package redraw

import "strings"

// Next returns the number after n, as people number on: 7 after 6, A10 after A9, B after A, AA after Z. What ends in several letters, as
// EP does, goes on with a figure: EP2. There is no number after none but 1.
func Next(n string) string {
	if n == "" {
		return "1"
	}
	end := len(n)
	for end > 0 && n[end-1] >= '0' && n[end-1] <= '9' {
		end--
	}
	if head, digits := n[:end], n[end:]; digits != "" {
		return head + counted(digits)
	}
	last := n[len(n)-1]
	if len(n) > 1 && letter(n[len(n)-2]) || !letter(last) {
		return n + "2"
	}
	switch last {
	case 'Z':
		return n[:len(n)-1] + "AA"
	case 'z':
		return n[:len(n)-1] + "aa"
	}
	return n[:len(n)-1] + string(last+1)
}

func letter(c byte) bool { return c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z' }

// counted adds one to a decimal text, keeping the zeros before it.
func counted(digits string) string {
	out := []byte(digits)
	for i := len(out) - 1; i >= 0; i-- {
		if out[i] < '9' {
			out[i]++
			return string(out)
		}
		out[i] = '0'
	}
	return "1" + string(out)
}

func clip(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

func words(all []string) string {
	out := make([]string, len(all))
	for i, w := range all {
		if out[i] = w; w == "" {
			out[i] = "blank"
		}
	}
	return strings.Join(out, ", ")
}
