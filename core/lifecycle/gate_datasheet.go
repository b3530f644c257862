package lifecycle

// datasheetGate: a datasheet is attached as a file; a link alone may die.
var datasheetGate = gate{about: "a datasheet is attached as a file", of: ofParts, with: plain(func(f Facts) Answer {
	if len(f.Datasheets) > 0 {
		return answer("", "", f.Datasheets)
	}
	return answer("no datasheet is attached", "attach its file", f.Datasheets)
})}
