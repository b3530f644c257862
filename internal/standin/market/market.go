package market

import (
	"fmt"
	"io/fs"
	"net"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"
)

// Secrets are what the simulated suppliers know those by who ask: made up, and the same for everybody.
var Secrets = map[string]string{"northquay-desk": "quay-side-7", "harbour-client": "finch-song-3", "sandbar-login": "low-tide-9"}

// Names of the four suppliers, as parts name them.
const (
	Northquay = "Northquay Electronics Supply"
	Harbour   = "Harbour & Finch"
	Sandbar   = "Sandbar Parts Exchange"
	MarshLane = "Marsh Lane Components"
)

// Faults are what happens to the next answers of a supplier.
type Faults struct {
	Fail    int           // so many answers are an error 500
	Busy    int           // so many are 429, with a Retry-After of RetryIn
	RetryIn string        // seconds or a date; blank: 0
	Cut     int           // so many break off in the middle
	Slow    time.Duration // each takes so long
	Garbled int           // so many are a page of HTML
	Renamed []string      // what the answers call otherwise: old and new, in turn
}

// Market is four running suppliers on one address.
type Market struct {
	URL  string
	http *http.Server

	mu      sync.Mutex
	faults  map[string]*Faults
	asked   map[string]int      // by supplier, answers of any kind
	lines   map[string][]string // by supplier, what was asked: path and query
	over    map[string]bool
	edition map[string]int       // of datasheets
	fenced  map[string]bool      // datasheets that only who signs in may read
	lost    map[string]bool      // archives whose links are dead
	prices  map[string]int       // MPN → hundredths that prices are multiplied by
	version int                  // of the price list
	moved   map[string]time.Time // MPN → when its row of the price list became otherwise
	dropped map[string]bool      // out of the price list
	tokens  map[string]time.Time
	ranges  map[string][]*listed
	files   fs.FS
}

// Start serves the four suppliers on loopback: on the given address where that is free, else on a free port. files has the folders datasheets and
// deliveries.
func Start(files fs.FS, address string) (*Market, error) {
	l, err := net.Listen("tcp", address)
	if err != nil {
		l, err = net.Listen("tcp", "127.0.0.1:0")
	}
	if err != nil {
		return nil, fmt.Errorf("the simulated suppliers cannot be started: %w", err)
	}
	all := catalogue()
	m := &Market{URL: "http://" + l.Addr().String(), files: files, faults: map[string]*Faults{}, asked: map[string]int{}, over: map[string]bool{}, lost: map[string]bool{}, edition: map[string]int{}, fenced: map[string]bool{}, lines: map[string][]string{}, prices: map[string]int{}, moved: map[string]time.Time{}, dropped: map[string]bool{}, version: 1, tokens: map[string]time.Time{}, ranges: map[string][]*listed{}}
	for name, prefix := range map[string]string{Northquay: "NQ", Harbour: "HF", Sandbar: "SB-", MarshLane: "ML-"} {
		m.ranges[name] = rangeOf(name, prefix, all)
		m.faults[name] = &Faults{}
	}
	mux := http.NewServeMux()
	mux.HandleFunc("/northquay/", m.faulty(Northquay, m.northquay))
	mux.HandleFunc("/harbour/", m.faulty(Harbour, m.harbour))
	mux.HandleFunc("/sandbar/", m.faulty(Sandbar, m.sandbar))
	mux.HandleFunc("/marsh-lane/", m.faulty(MarshLane, m.marshLane))
	mux.HandleFunc("GET /sheets/{name}", m.sheet)
	mux.HandleFunc("GET /models/{name}", m.archive)
	m.http = &http.Server{Handler: mux, ReadHeaderTimeout: 5 * time.Second}
	go func() { _ = m.http.Serve(l) }()
	return m, nil
}

// Close stops serving.
func (m *Market) Close() error { return m.http.Close() }

// Host is what the guard for outgoing requests has to allow.
func (m *Market) Host() string { return strings.TrimPrefix(m.URL, "http://") }

// Happen says what happens to the next answers of a supplier.
func (m *Market) Happen(supplier string, f Faults) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.faults[supplier] = &f
}

// Asked is how many requests a supplier has had.
func (m *Market) Asked(supplier string) int {
	m.mu.Lock()
	defer m.mu.Unlock()
	return m.asked[supplier]
}

// Questions are the addresses that a supplier was asked at, in their order.
func (m *Market) Questions(supplier string) []string {
	m.mu.Lock()
	defer m.mu.Unlock()
	return slices.Clone(m.lines[supplier])
}

// Correct lets a maker write another edition of a datasheet.
func (m *Market) Correct(sheet string) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.edition[sheet]++
}

// Fence puts a page to sign in before a datasheet, or takes it away.
func (m *Market) Fence(sheet string, up bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.fenced[sheet] = up
}

// End lets a maker end a product: all suppliers say so from now on.
func (m *Market) End(mpn string) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.over[mpn] = true
	m.moved[mpn] = time.Now()
	m.version++
}

// Reprice multiplies a product's prices by hundredths.
func (m *Market) Reprice(mpn string, hundredths int) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.prices[mpn] = hundredths
	m.moved[mpn] = time.Now()
	m.version++
}

// Drop takes a product out of Marsh Lane's price list.
func (m *Market) Drop(mpn string) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.dropped[mpn] = true
	m.moved[mpn] = time.Now()
	m.version++
}

// now is a listed product as it is today.
func (m *Market) now(l *listed) (state string, price func(step int) int) {
	m.mu.Lock()
	defer m.mu.Unlock()
	state = l.state
	if m.over[l.mpn] {
		state = "over"
	}
	by := m.prices[l.mpn]
	if by == 0 {
		by = 100
	}
	return state, func(step int) int { return l.price(step) * by / 100 }
}

// faulty counts the requests of a supplier, and lets happen to them what was said.
func (m *Market) faulty(supplier string, next http.HandlerFunc) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		m.mu.Lock()
		f := m.faults[supplier]
		m.asked[supplier]++
		if m.lines[supplier] = append(m.lines[supplier], r.URL.RequestURI()); len(m.lines[supplier]) > 20_000 {
			m.lines[supplier] = m.lines[supplier][10_000:]
		}
		take := func(n *int) bool {
			if *n > 0 {
				*n--
				return true
			}
			return false
		}
		renamed := f.Renamed
		fail, busy, cut, garbled, slow, in := take(&f.Fail), take(&f.Busy), take(&f.Cut), take(&f.Garbled), f.Slow, f.RetryIn
		m.mu.Unlock()
		if slow > 0 {
			select {
			case <-time.After(slow):
			case <-r.Context().Done():
				return
			}
		}
		switch {
		case fail:
			http.Error(w, "something went wrong here", http.StatusInternalServerError)
		case busy:
			if in == "" {
				in = "0"
			}
			w.Header().Set("Retry-After", in)
			http.Error(w, "slow down", http.StatusTooManyRequests)
		case garbled:
			w.Header().Set("Content-Type", "text/html")
			_, _ = fmt.Fprint(w, "<!doctype html><title>We are improving our site</title>")
		case len(renamed) > 0:
			next(&otherwise{w, strings.NewReplacer(renamed...)}, r)
		case cut:
			next(&halved{ResponseWriter: w}, r)
		default:
			next(w, r)
		}
	}
}

// otherwise calls some things of its answer by other names.
type otherwise struct {
	http.ResponseWriter
	names *strings.Replacer
}

func (o *otherwise) Write(b []byte) (int, error) {
	_, err := o.names.WriteString(o.ResponseWriter, string(b))
	return len(b), err
}

// halved says that its body is longer than it is.
type halved struct {
	http.ResponseWriter
	begun bool
}

func (h *halved) Write(b []byte) (int, error) {
	if !h.begun {
		h.begun = true
		h.Header().Set("Content-Length", strconv.Itoa(len(b)+1000))
	}
	return h.ResponseWriter.Write(b)
}

// sheet hands out a datasheet: one of the demo's, or a small one that says whose it is.
func (m *Market) sheet(w http.ResponseWriter, r *http.Request) {
	name := r.PathValue("name")
	m.mu.Lock()
	edition, fenced := m.edition[name], m.fenced[name]
	m.mu.Unlock()
	if fenced { // as such pages do, with the answer of a page that is there
		w.Header().Set("Content-Type", "text/html")
		_, _ = w.Write([]byte("<!doctype html><title>Sign in</title><p>Please sign in to read the datasheet."))
		return
	}
	raw, err := fs.ReadFile(m.files, "datasheets/"+name)
	if err != nil || edition > 0 {
		raw = paper("Datasheet " + strings.TrimSuffix(name, ".pdf") + ": " + strings.Join(stems(name), ", ") + strings.Repeat(", corrected", edition))
	}
	w.Header().Set("Content-Type", "application/pdf")
	_, _ = w.Write(raw)
}

// stems are what the part numbers of the products that have a datasheet begin with.
func stems(sheet string) (out []string) {
	for _, p := range catalogue() {
		if p.sheet != sheet {
			continue
		}
		stem := p.mpn
		if size := p.facts["case"]; size != "" && strings.Contains(stem, size) {
			stem = stem[:strings.Index(stem, size)+len(size)]
		}
		if !slices.Contains(out, stem) {
			out = append(out, stem)
		}
	}
	return out
}

// paper is a PDF of one page with one line (ISO 32000-1, 7.5).
func paper(line string) []byte {
	content := fmt.Sprintf("BT /F1 14 Tf 60 760 Td (%s) Tj ET", strings.NewReplacer("(", "", ")", "", "\\", "").Replace(line))
	objects := []string{"<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[3 0 R]/Count 1>>", "<</Type/Page/Parent 2 0 R/MediaBox[0 0 595 842]/Contents 4 0 R/Resources<</Font<</F1 5 0 R>>>>>>",
		fmt.Sprintf("<</Length %d>>stream\n%s\nendstream", len(content), content), "<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>"}
	out := "%PDF-1.4\n"
	var at []int
	for i, o := range objects {
		at = append(at, len(out))
		out += fmt.Sprintf("%d 0 obj%s endobj\n", i+1, o)
	}
	begin := len(out)
	out += fmt.Sprintf("xref\n0 %d\n0000000000 65535 f \n", len(objects)+1)
	for _, a := range at {
		out += fmt.Sprintf("%010d 00000 n \n", a)
	}
	return []byte(out + fmt.Sprintf("trailer<</Size %d/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF\n", len(objects)+1, begin))
}
