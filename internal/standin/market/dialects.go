package market

import (
	"cmp"
	"crypto/subtle"
	"encoding/base64"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"
)

func same(a, b string) bool { return subtle.ConstantTimeCompare([]byte(a), []byte(b)) == 1 }

func writeJSON(w http.ResponseWriter, v any) {
	raw, err := json.Marshal(v)
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	_, _ = w.Write(raw)
}

// byNumber finds products by manufacturer part numbers, or by numbers of the supplier, of any case.
func byNumber(all []*listed, numbers []string, own bool) (out []*listed) {
	for _, p := range all {
		n := p.mpn
		if own {
			n = p.number
		}
		if slices.ContainsFunc(numbers, func(s string) bool { return strings.EqualFold(strings.TrimSpace(s), n) }) {
			out = append(out, p)
		}
	}
	return out
}

type m map[string]any

// northquayKinds are its words for kinds.
var northquayKinds = map[string]string{"resistor": "Resistors, chip", "capacitor": "Capacitors, ceramic", "inductor": "Coils, power", "led": "LEDs", "header": "Headers, pin", "controller": "Controllers"}

// northquay is asked over GET, knows those who ask by a key in a header, and goes on by a cursor.
//
//	GET /northquay/v3/articles?text=…&where=Resistance=4700;Rated voltage>=25&group=…&most=…&after=…   GET /northquay/v3/articles?mpn=A,B   GET /northquay/v3/articles?article=…
func (k *Market) northquay(w http.ResponseWriter, r *http.Request) {
	if !same(r.Header.Get("X-Desk"), Secrets["northquay-desk"]) {
		http.Error(w, "who are you?", http.StatusUnauthorized)
		return
	}
	if r.URL.Path != "/northquay/v3/articles" {
		http.NotFound(w, r)
		return
	}
	q := r.URL.Query()
	all := k.ranges[Northquay]
	var found []*listed
	switch {
	case q.Get("mpn") != "":
		found = byNumber(all, strings.Split(q.Get("mpn"), ","), false)
	case q.Get("article") != "":
		found = byNumber(all, []string{q.Get("article")}, true)
	default:
		if found = look(all, q.Get("text")); q.Get("text") == "" && q.Get("where")+q.Get("group") != "" {
			found = all
		}
		found = ofClass(narrow(Northquay, found, strings.Split(q.Get("where"), ";")), q.Get("group"), northquayKinds)
	}
	most, _ := strconv.Atoi(q.Get("most"))
	most = max(1, min(most, 100))
	from := 0
	if after := q.Get("after"); after != "" {
		raw, err := base64.RawURLEncoding.DecodeString(after)
		from, _ = strconv.Atoi(string(raw))
		if err != nil || from <= 0 || from > len(found) {
			http.Error(w, "no such place", http.StatusBadRequest)
			return
		}
	}
	to := min(from+most, len(found))
	items := []m{}
	for _, p := range found[from:to] {
		state, price := k.now(p)
		spec := []m{}
		say := func(name, text, unit string) {
			if text != "" {
				spec = append(spec, m{"label": name, "text": text, "unit": unit})
			}
		}
		f := p.facts
		say("Resistance", f["resistance"], "")
		say("Capacitance", f["capacitance"], "")
		say("Inductance", f["inductance"], "")
		say("Tolerance", prefixed("±", p.tolerance(), " %"), "")
		say("Rated power", f["power"], "W")
		say("Rated voltage", f["voltage"], "V")
		say("Dielectric", f["dielectric"], "")
		if p.kind == "inductor" {
			say("DC resistance", f["dcr"], "Ω")
			say("Saturation current", f["isat"], "A")
			say("Package", "SM-"+f["case"], "")
		} else {
			say("Case (inch)", f["case"], "")
		}
		if f["tempmin"] != "" {
			say("Operating temperature", f["tempmin"]+" °C to +"+f["tempmax"]+" °C", "")
		}
		say("Colour", f["colour"], "")
		say("Forward voltage", f["vf"], "V")
		say("Number of positions", f["poles"], "")
		say("Pitch", f["pitch"], "mm")
		say("Rated current", f["current"], "A")
		say("Function", f["function"], "")
		say("RoHS", "yes", "")
		if q.Get("article") != "" && p.kind == "resistor" { // only on the product's own page
			say("Height", map[string]string{"0402": "0.35", "0603": "0.45", "0805": "0.5", "1206": "0.55"}[f["case"]], "mm")
		}
		breaks := []m{}
		for i, at := range steps {
			breaks = append(breaks, m{"qty": at, "each": decimal(price(i))})
		}
		kind := p.kindIn(northquayKinds)
		item := m{"article": p.number, "maker": m{"name": p.maker, "partNumber": p.mpn}, "title": p.title(), "family": p.series, "group": kind,
			"life": m{"active": "Active", "last": "Last time buy", "over": "Obsolete"}[state], "documents": m{"sheet": k.URL + "/sheets/" + p.sheet}, "specification": spec,
			"packings": []m{{"article": p.number, "form": "cut tape", "onHand": p.stock, "from": 1, "by": 1, "weeks": 4 + chance(12, p.mpn, "lead"), "money": "EUR", "prices": breaks}}}
		if p.fault == "no kind" {
			delete(item, "group")
		}
		if p.stock > 5000 {
			item["packings"] = append(item["packings"].([]m), m{"article": p.number + "-R", "form": "reel of 5000", "onHand": p.stock / 5000 * 5000, "from": 5000, "by": 5000, "weeks": 4 + chance(12, p.mpn, "lead"), "money": "EUR", "prices": []m{{"qty": 5000, "each": decimal(price(4))}}})
		}
		if a := archiveOf(p.product); a != "" {
			item["files"] = []m{{"what": "symbol, land pattern, body", "title": a, "href": k.URL + "/models/" + url.PathEscape(a)}}
		}
		items = append(items, item)
	}
	out := m{"count": len(found), "articles": items}
	if to < len(found) {
		out["after"] = base64.RawURLEncoding.EncodeToString([]byte(strconv.Itoa(to)))
	}
	writeJSON(w, out)
}

func prefixed(before, s, after string) string {
	if s == "" {
		return ""
	}
	return before + s + after
}

// title is a line for people.
func (l *listed) title() string {
	f := l.facts
	switch l.kind {
	case "resistor":
		return fmt.Sprintf("Chip resistor %s %s%% %s", f["resistance"], l.tolerance(), f["case"])
	case "capacitor":
		return fmt.Sprintf("Ceramic capacitor %s %s V %s %s", f["capacitance"], f["voltage"], f["dielectric"], f["case"])
	case "inductor":
		return fmt.Sprintf("Power inductor %s %s A", f["inductance"], f["isat"])
	case "led":
		return fmt.Sprintf("LED %s %s", f["colour"], f["case"])
	case "header":
		return fmt.Sprintf("Pin header %s poles %s mm", f["poles"], f["pitch"])
	case "":
		return l.text
	}
	return f["function"]
}

// kindIn is the kind of a product in a supplier's words.
func (p *product) kindIn(words map[string]string) string { return cmp.Or(words[p.kind], p.group) }

// harbour is asked by a question in GraphQL over POST, with a token that it hands out for a client's name and secret.
func (k *Market) harbour(w http.ResponseWriter, r *http.Request) {
	switch r.URL.Path {
	case "/harbour/token":
		who, secret, ok := r.BasicAuth()
		if secret, _ = url.QueryUnescape(secret); !ok || who != "estuary-watch" || !same(secret, Secrets["harbour-client"]) || r.FormValue("grant_type") != "client_credentials" {
			w.WriteHeader(http.StatusUnauthorized)
			_, _ = fmt.Fprint(w, `{"error":"invalid_client"}`)
			return
		}
		k.mu.Lock()
		t := fmt.Sprintf("t%d-%d", len(k.tokens), time.Now().UnixNano())
		k.tokens[t] = time.Now().Add(10 * time.Minute)
		k.mu.Unlock()
		writeJSON(w, m{"access_token": t, "token_type": "Bearer", "expires_in": 600})
		return
	case "/harbour/graph":
	default:
		http.NotFound(w, r)
		return
	}
	k.mu.Lock()
	until, ok := k.tokens[strings.TrimPrefix(r.Header.Get("Authorization"), "Bearer ")]
	k.mu.Unlock()
	if !ok || time.Now().After(until) {
		http.Error(w, "no token", http.StatusUnauthorized)
		return
	}
	var in struct {
		Query     string
		Variables struct {
			Text    string
			Numbers []string
			Where   []string
			Sku     string
			First   int
			After   *string
		}
	}
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 1<<20)).Decode(&in); err != nil || !strings.Contains(in.Query, "products") {
		writeJSON(w, m{"errors": []m{{"message": "the question has no products"}}})
		return
	}
	v := in.Variables
	var found []*listed
	switch all := k.ranges[Harbour]; {
	case len(v.Numbers) > 0:
		found = byNumber(all, v.Numbers, false)
	case v.Sku != "":
		found = byNumber(all, []string{v.Sku}, true)
	default:
		if found = look(all, v.Text); v.Text == "" && len(v.Where) > 0 {
			found = all
		}
		found = narrow(Harbour, found, v.Where)
	}
	from := 0
	if v.After != nil {
		from, _ = strconv.Atoi(strings.TrimPrefix(*v.After, "p"))
	}
	from = max(0, min(from, len(found)))
	to := min(from+max(1, min(v.First, 60)), len(found))
	edges := []m{}
	for _, p := range found[from:to] {
		state, price := k.now(p)
		at := []m{}
		say := func(key string, value any) {
			if value != "" {
				at = append(at, m{"key": key, "value": value})
			}
		}
		f := p.facts
		say("r_nom", strings.NewReplacer(" ", "", "Ω", "R").Replace(f["resistance"]))
		say("c_nom", strings.ReplaceAll(f["capacitance"], " ", ""))
		say("l_nom", strings.ReplaceAll(f["inductance"], " ", ""))
		say("tol", prefixed("+/-", p.tolerance(), "%"))
		say("p_max", prefixed("", f["power"], " W"))
		say("v_max", prefixed("", f["voltage"], "V"))
		say("diel", f["dielectric"])
		say("dcr_max", prefixed("", f["dcr"], " Ohm"))
		say("i_sat", prefixed("", f["isat"], " A"))
		say("size_inch", map[bool]string{true: "", false: f["case"]}[p.kind == "inductor"])
		say("t_op", prefixed(f["tempmin"]+"..", f["tempmax"], " °C"))
		say("colour", f["colour"])
		say("v_f", prefixed("", f["vf"], " V"))
		say("poles", f["poles"])
		say("pitch", prefixed("", f["pitch"], " mm"))
		tiers := []m{}
		for i, n := range steps {
			tiers = append(tiers, m{"min": n, "amount": float64(price(i)) / 100, "per": 100})
		}
		node := m{"sku": p.number, "brand": p.maker, "mpn": p.mpn, "line": p.series, "text": p.title(), "section": p.kindIn(map[string]string{"resistor": "Passives / Chip resistors", "capacitor": "Passives / MLCC", "inductor": "Inductors / power", "led": "Opto / LED", "header": "Connectors / pin headers", "controller": "ICs / digital"}),
			"lifecycle": m{"active": "IN_PRODUCTION", "last": "NOT_RECOMMENDED_FOR_NEW_DESIGNS", "over": "END_OF_LIFE"}[state], "pdf": k.URL + "/sheets/" + p.sheet, "attributes": at,
			"offer": m{"available": p.stock, "moq": 1, "step": 1, "currency": "EUR", "tiers": tiers, "restock": fmt.Sprintf("P%dD", 20+chance(60, p.mpn, "restock"))}}
		if p.fault == "no kind" {
			node["section"] = nil
		}
		if a := archiveOf(p.product); a != "" {
			node["assets"] = []m{{"type": "CAD", "name": a, "url": k.URL + "/models/" + url.PathEscape(a)}}
		}
		edges = append(edges, m{"node": node})
	}
	info := m{"hasNextPage": to < len(found), "endCursor": nil}
	if to < len(found) {
		info["endCursor"] = fmt.Sprintf("p%d", to)
	}
	writeJSON(w, m{"data": m{"products": m{"total": len(found), "edges": edges, "pageInfo": info}}})
}

// sandbar answers in XML, goes on by an offset, and knows those who ask by a user and a password. Its prices are in pounds.
//
//	GET /sandbar/find.xml?words=…&start=…&rows=…   GET /sandbar/find.xml?partno=…   GET /sandbar/find.xml?stockcode=…
func (k *Market) sandbar(w http.ResponseWriter, r *http.Request) {
	who, secret, _ := r.BasicAuth()
	if who != "estuary" || !same(secret, Secrets["sandbar-login"]) {
		w.Header().Set("WWW-Authenticate", `Basic realm="sandbar"`)
		http.Error(w, "sign in", http.StatusUnauthorized)
		return
	}
	if r.URL.Path != "/sandbar/find.xml" {
		http.NotFound(w, r)
		return
	}
	q := r.URL.Query()
	var found []*listed
	switch all := k.ranges[Sandbar]; {
	case q.Get("partno") != "":
		found = byNumber(all, []string{q.Get("partno")}, false)
	case q.Get("stockcode") != "":
		found = byNumber(all, []string{q.Get("stockcode")}, true)
	default:
		found = look(all, q.Get("words"))
	}
	start, _ := strconv.Atoi(q.Get("start"))
	rows, _ := strconv.Atoi(q.Get("rows"))
	start = max(0, min(start, len(found)))
	end := min(start+max(1, min(rows, 40)), len(found))
	var b strings.Builder
	esc := func(s string) string {
		var e strings.Builder
		_ = xml.EscapeText(&e, []byte(s))
		return e.String()
	}
	fmt.Fprintf(&b, "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<results xmlns=\"urn:sandbar:find\" hits=\"%d\">\n", len(found))
	for _, p := range found[start:end] {
		state, price := k.now(p)
		fmt.Fprintf(&b, "<part code=\"%s\"><mfr>%s</mfr><partno>%s</partno><range>%s</range><text>%s</text>", esc(p.number), esc(strings.ToUpper(p.maker)), esc(p.mpn), esc(p.series), esc(p.title()))
		if p.fault != "no kind" {
			fmt.Fprintf(&b, "<class>%s</class>", esc(p.kindIn(map[string]string{"resistor": "Resistor, SMD", "capacitor": "Capacitor, SMD ceramic", "inductor": "Inductor", "led": "LED", "header": "Header", "controller": "Microcontroller"})))
		}
		fmt.Fprintf(&b, "<status>%s</status><sheet href=\"%s\"/><attrs>", map[string]string{"active": "current", "last": "nrnd", "over": "discontinued"}[state], esc(k.URL+"/sheets/"+p.sheet))
		say := func(name, text string) {
			if text != "" {
				fmt.Fprintf(&b, "<attr n=\"%s\">%s</attr>", esc(name), esc(text))
			}
		}
		f := p.facts
		say("Resistance value", f["resistance"])
		say("Capacitance value", f["capacitance"])
		say("Inductance value", f["inductance"])
		say("Tol.", prefixed("", p.tolerance(), "%"))
		say("Power rating", prefixed("", f["power"], "W"))
		say("Voltage rating", prefixed("", f["voltage"], " V"))
		say("Dielectric code", f["dielectric"])
		say("DCR", prefixed("", f["dcr"], "Ω"))
		say("Isat", prefixed("", f["isat"], "A"))
		if p.kind != "inductor" {
			say("Case size", f["case"])
		}
		say("Temperature range", prefixed(f["tempmin"]+" to ", f["tempmax"], "°C"))
		say("LED colour", f["colour"])
		say("Vf", prefixed("", f["vf"], " V"))
		say("Ways", f["poles"])
		say("Pitch", prefixed("", f["pitch"], " mm"))
		fmt.Fprintf(&b, "</attrs><stock>%d</stock><min>1</min><prices currency=\"GBP\">", p.stock)
		for i, n := range steps {
			fmt.Fprintf(&b, "<price from=\"%d\">%s</price>", n, decimal(price(i)*85/100))
		}
		b.WriteString("</prices></part>\n")
	}
	b.WriteString("</results>\n")
	w.Header().Set("Content-Type", "application/xml")
	_, _ = w.Write([]byte(b.String()))
}

// marshLane has no questions: its price list is written by night, in crowns and with a decimal comma.
//
//	GET /marsh-lane/pricelist.csv, with ETag and If-None-Match
//	GET /marsh-lane/changes.csv?since=2026-11-28T02:00:00Z, its rows that are otherwise since then, and which are out
func (k *Market) marshLane(w http.ResponseWriter, r *http.Request) {
	changes := r.URL.Path == "/marsh-lane/changes.csv"
	if !changes && r.URL.Path != "/marsh-lane/pricelist.csv" {
		http.NotFound(w, r)
		return
	}
	k.mu.Lock()
	tag := fmt.Sprintf("\"night-%d\"", k.version)
	moved, dropped := maps.Clone(k.moved), maps.Clone(k.dropped)
	k.mu.Unlock()
	since, err := time.Parse(time.RFC3339, r.URL.Query().Get("since"))
	if changes && err != nil {
		http.Error(w, "since is no time", http.StatusBadRequest)
		return
	}
	if w.Header().Set("ETag", tag); !changes && r.Header.Get("If-None-Match") == tag {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	var b strings.Builder
	if changes {
		b.WriteString("Out;")
	}
	b.WriteString("Order code;Maker;Maker part no.;Category;Series;Resistance;Capacitance;Inductance;Tolerance;Power (W);Voltage (V);Dielectric;Size;Life;Datasheet;Stock;Unit;Price 1;Price 10;Price 100;Price 1000;Price 5000\r\n")
	for _, p := range k.ranges[MarshLane] {
		if changes && !moved[p.mpn].After(since) || !changes && dropped[p.mpn] {
			continue
		}
		if changes {
			b.WriteString(map[bool]string{true: "x"}[dropped[p.mpn]] + ";")
		}
		state, price := k.now(p)
		f := p.facts
		kind := p.kindIn(map[string]string{"resistor": "Chip resistors", "capacitor": "Ceramic capacitors", "inductor": "Power coils", "led": "LEDs", "header": "Pin headers", "controller": "Controllers"})
		if p.fault == "no kind" {
			kind = ""
		}
		cells := []string{p.number, p.maker, p.mpn, kind, p.series, withComma(f["resistance"]), withComma(f["capacitance"]), withComma(f["inductance"]), prefixed("±", p.tolerance(), " %"), withComma(f["power"]), f["voltage"], f["dielectric"], f["case"],
			map[string]string{"active": "aktiv", "last": "Abkündigung", "over": "abgekündigt"}[state], k.URL + "/sheets/" + p.sheet, strconv.Itoa(p.stock), "1"}
		for i := range steps {
			cells = append(cells, withComma(decimal(price(i)*11)))
		}
		b.WriteString(strings.Join(cells, ";") + "\r\n")
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	_, _ = w.Write([]byte(b.String()))
}
