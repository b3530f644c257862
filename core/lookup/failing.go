package lookup

// Failing reads a question and says of every part which of its facts do not hold for it, by the part's identifier, as places in the facts that are
// returned. A part for which all hold is not among them. What made no sense is a skipped fact, and fails nobody.
func (x *Index) Failing(text string) (facts []Fact, failing map[string][]int) {
	defer x.hold(Query{Text: text})()
	conds := x.read(text)
	x.locate(conds)
	failing = map[string][]int{}
	for k := range conds {
		f := conds[k].fact
		f.Options = append([]Reading{}, f.Options...)
		facts = append(facts, f)
		if f.Kind == "skipped" {
			continue
		}
		for _, s := range x.shelves {
			fits := x.fit(s, conds[k:k+1], -1)
			s.live.each(func(i uint32) {
				if fits == nil || !fits.has(i) {
					id := x.ids.get(s.rows[i])
					failing[id] = append(failing[id], k)
				}
			})
		}
	}
	return facts, failing
}
