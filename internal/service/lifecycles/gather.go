package lifecycles

import (
	"encoding/json"
	"fmt"
	"slices"
	"sync"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/service/series"
	"jollydrawer/internal/store"
)

// known is what gates and moves are told of one thing.
type known struct {
	facts   lifecycle.Facts
	authors []store.ID
	waivers []store.GateWaiver
	content store.Content
	part    *part.Content // of a part: content, taken apart
	uses    []store.Use   // of a part, as released
	broken  []finding.Finding
	major   []string // of a thing that is told of
}

// gathering collects what is known of some things, so that the database is asked by hundreds and each pair of drawings is
// compared once. Several goroutines may gather with it.
type gathering struct {
	*Lifecycles
	r      store.Reader
	rules  policy.Rules
	cab    *cabinet.Cabinet // nil before there is one
	mu     sync.Mutex       // guards fits and teams
	fits   map[string][]finding.Finding
	teams  map[store.ID][]string // groups by person
	twins  bool                  // some gate asks for them; to look for them takes as long as all the rest
	supply bool                  // some gate asks how sources stand
	tell   telling               // of things that others know
	sheets bool                  // some gate asks for datasheets: those of the series are looked up for parts without one
}

func (s *Lifecycles) gathering(r store.Reader, rules policy.Rules, tell telling) *gathering {
	cab, _ := rules.Cabinet()
	return &gathering{Lifecycles: s, r: r, rules: rules, cab: cab, tell: tell, fits: map[string][]finding.Finding{}, teams: map[store.ID][]string{}, twins: rules.HasGate("identity"), supply: rules.HasGate("production"), sheets: rules.HasGate("datasheet") || rules.HasGate("findings")}
}

// gather tells of some things what gates are asked about: of the drafts where there are drafts, else of what is in use.
func (g *gathering) gather(heads []store.Head) (map[store.ID]*known, error) {
	out := make(map[store.ID]*known, len(heads))
	var ids, contents []store.ID
	for _, h := range heads {
		out[h.ID] = &known{}
		ids, contents = append(ids, h.ID), append(contents, h.Newest())
	}
	found, err := g.r.ContentsAlone(contents)
	if err != nil {
		return nil, err
	}
	read := map[store.ID]part.Content{}
	for _, h := range heads {
		k := out[h.ID]
		k.content = found[h.Newest()]
		if t, ok, err := g.tell(h); ok || err != nil {
			if err != nil {
				return nil, err
			}
			if k.facts, k.major = t.Facts, t.Major; t.Facts.Content != "" {
				if k.content.Hash, err = t.hash(); err != nil {
					return nil, err
				}
			}
			continue
		}
		if h.Kind == store.KindModel {
			if err := g.ofModel(h, k); err != nil {
				return nil, err
			}
			continue
		}
		p, err := g.ofPart(h, k)
		if err != nil {
			return nil, err
		}
		read[h.ID] = p
	}
	if err := g.models(read, out); err != nil {
		return nil, err
	}
	if err := g.supplied(read, out); err != nil {
		return nil, err
	}
	return out, g.people(heads, ids, out)
}

func (g *gathering) ofModel(h store.Head, k *known) error {
	var m model.Content
	if err := json.Unmarshal(k.content.Bytes, &m); err != nil {
		return err
	}
	if m.FileHash == "" && !m.Drawn() {
		k.broken = append(k.broken, finding.Finding{Severity: finding.Error, Cause: "no-file", What: "it has neither a drawing nor a file", Mend: "attach its file first"})
	}
	var err error
	k.facts, err = g.Lifecycles.models.FactsOf(g.r, h.ID, &m, k.content.Hash)
	return err
}

func (g *gathering) ofPart(h store.Head, k *known) (p part.Content, err error) {
	if p, err = parts.DecodeContent(k.content); err != nil {
		return p, err
	}
	k.part, k.uses = &p, parts.UsesOf(p, "released")
	if g.cab == nil {
		return p, nil
	}
	t, ok := g.cab.Template(p.Drawer)
	if !ok {
		k.broken = append(k.broken, finding.Finding{Severity: finding.Error, Cause: "drawer-unknown", What: fmt.Sprintf("it is in the drawer %q, which the cabinet lacks", p.Drawer), Mend: "put it into another drawer"})
		return p, nil
	}
	fit, err := g.fit(t, p)
	if err != nil {
		return p, err
	}
	k.facts = parts.FactsOf(p, t, k.content.Hash.String(), fit)
	if len(p.Datasheets) == 0 && g.sheets {
		of, err := series.Of(g.r, p)
		if err != nil {
			return p, err
		}
		for _, s := range of {
			for _, f := range s.Datasheets {
				k.facts.Datasheets = append(k.facts.Datasheets, f.Hash)
			}
		}
		if series.HaveSheet(of) {
			k.facts.Findings = series.WithSheet(k.facts.Findings)
		}
	}
	for _, f := range k.facts.Findings {
		if f.Severity == finding.Error && !isRequired(f) {
			k.broken = append(k.broken, f)
		}
	}
	if g.twins && len(k.facts.Identity) > 0 {
		k.facts.Twins = g.parts.Equal(g.cab, p, h.ID)
	}
	return p, nil
}

// fit is what the models of a part say of each other; parts that share them share the answer.
func (g *gathering) fit(t *cabinet.Template, p part.Content) ([]finding.Finding, error) {
	raw, err := json.Marshal([]any{t.Key, p.Symbol, p.LandPattern, p.Body, p.PinMap, p.Attachments, p.Values["pitch"], p.Values["pin-pitch"], p.Values["lead-pitch"]})
	if err != nil {
		return nil, err
	}
	key := string(raw)
	g.mu.Lock()
	f, ok := g.fits[key]
	g.mu.Unlock()
	if ok {
		return f, nil
	}
	if f, err = g.Lifecycles.models.Fit(g.r, t, p); err != nil {
		return nil, err
	}
	g.mu.Lock()
	defer g.mu.Unlock()
	g.fits[key] = f
	return f, nil
}

// models tells of each part which models it holds, and in which state their revisions are.
func (g *gathering) models(read map[store.ID]part.Content, out map[store.ID]*known) error {
	var ids []store.ID
	at := map[store.ID]bool{}
	for _, p := range read {
		for _, m := range p.Models() {
			if m == nil {
				continue
			}
			if id, err := store.ParseID(m.ID); err == nil && !at[id] {
				at[id], ids = true, append(ids, id)
			}
		}
	}
	if len(ids) == 0 {
		return nil
	}
	heads, err := g.r.HeadsByID(ids)
	if err != nil {
		return err
	}
	byID := map[store.ID]store.Head{}
	for _, h := range heads {
		byID[h.ID] = h
	}
	type rev struct {
		head   store.ID
		number int
	}
	moved, hashes := map[rev]string{}, map[rev]string{}
	states, err := g.r.RevisionStates(ids)
	if err != nil {
		return err
	}
	for _, s := range states {
		moved[rev{s.Head, s.Number}] = s.State
	}
	revisions, err := g.r.RevisionsOf(ids)
	if err != nil {
		return err
	}
	for head, all := range revisions {
		for _, r := range all {
			hashes[rev{head, r.Number}] = r.Hash.String()
		}
	}
	signs, err := g.r.ReviewSigns(ids)
	if err != nil {
		return err
	}
	reviewed := map[string]bool{}
	for _, s := range signs {
		reviewed[s.Head.String()+s.Content.String()] = reviewed[s.Head.String()+s.Content.String()] || !s.Author
	}
	for part, p := range read {
		for _, place := range []string{"symbol", "land pattern", "body", "pin map"} {
			m := p.Models()[place]
			if m == nil {
				continue
			}
			f := lifecycle.ModelFact{Place: place, Name: m.Name, Revision: m.Revision, StandIn: m.StandIn, Meaning: lifecycle.MeansDraft}
			id, err := store.ParseID(m.ID)
			if h, ok := byID[id]; err == nil && ok && m.Revision > 0 {
				f.Meaning = g.rules.Revision(h, m.Revision, moved[rev{id, m.Revision}]).Meaning
				f.Reviewed = reviewed[m.ID+hashes[rev{id, m.Revision}]]
			}
			out[part].facts.Models = append(out[part].facts.Models, f)
		}
	}
	return nil
}

// people tells of each thing who wrote, signed, waived and proved.
func (g *gathering) people(heads []store.Head, ids []store.ID, out map[store.ID]*known) error {
	authors, err := g.r.Authors(heads)
	if err != nil {
		return err
	}
	for id, a := range authors {
		out[id].authors = a
	}
	waivers, err := g.r.GateWaivers(ids)
	if err != nil {
		return err
	}
	for _, w := range waivers {
		out[w.Head].waivers = append(out[w.Head].waivers, w)
	}
	signs, err := g.r.ReviewSigns(ids)
	if err != nil {
		return err
	}
	for _, s := range signs {
		k := out[s.Head]
		groups, err := g.groupsOf(s.Account)
		if err != nil {
			return err
		}
		k.facts.Signed = append(k.facts.Signed, lifecycle.Signature{Content: s.Content.String(), By: g.nameOf(s.Account), Groups: groups, Author: s.Author || slices.Contains(k.authors, s.Account)})
	}
	proofs, err := g.r.Proofs(ids)
	for _, p := range proofs {
		if k := out[p.Head]; p.Content == k.content.Hash {
			k.facts.Boards += p.Boards
		}
	}
	return err
}

// groupsOf are the groups of a person, asked for once.
func (g *gathering) groupsOf(person store.ID) ([]string, error) {
	g.mu.Lock()
	defer g.mu.Unlock()
	groups, asked := g.teams[person]
	if asked {
		return groups, nil
	}
	groups, err := g.r.GroupsOf(person)
	if err == nil {
		g.teams[person] = groups
	}
	return groups, err
}

// nameOf is a person's name as this reader sees it.
func (g *gathering) nameOf(id store.ID) string {
	a, err := g.r.AccountBy("id", id)
	if err != nil {
		return "somebody"
	}
	return a.Name
}
