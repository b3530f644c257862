package lifecycle

// alternatesGate: no source said otherwise of an identifying parameter when it was attached or merged in.
var alternatesGate = gate{about: "all sources are equal in the identifying parameters", of: ofParts, with: plain(func(f Facts) Answer {
	if len(f.Unequal) == 0 {
		return answer("", "", f.Unequal)
	}
	return answer("a source is not equal: "+some(f.Unequal), "make a part of its own of it, or correct the value", f.Unequal)
})}
