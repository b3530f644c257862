package store

import (
	"encoding/base64"
	"encoding/binary"
	"errors"
	"time"
)

// TrailQuery narrows the trail of all things; what is zero narrows nothing.
type TrailQuery struct {
	Account  ID
	Kinds    []string
	Drawers  []string  // of parts
	From, To time.Time // from the first on, up to before the second
	Deeds    []ID      // nil is any; an empty list finds nothing
	After    TrailPlace
	Oldest   bool // first
}

// TrailPlace is a place in the trail of all things: behind one entry.
type TrailPlace struct {
	At   time.Time
	Head ID
	Seq  int
}

// IsZero says whether p is the beginning.
func (p TrailPlace) IsZero() bool { return p.Head.IsZero() }

// String writes the place as a token.
func (p TrailPlace) String() string {
	if p.IsZero() {
		return ""
	}
	b := binary.BigEndian.AppendUint64(nil, uint64(p.At.UnixMicro()))
	b = binary.BigEndian.AppendUint32(append(b, p.Head[:]...), uint32(p.Seq))
	return base64.RawURLEncoding.EncodeToString(b)
}

// ParseTrailPlace reads a token; a blank one is the beginning.
func ParseTrailPlace(s string) (p TrailPlace, err error) {
	if s == "" {
		return p, nil
	}
	b, err := base64.RawURLEncoding.DecodeString(s)
	if err != nil || len(b) != 28 {
		return p, errors.New("there is no such place in the trail")
	}
	p.At = time.UnixMicro(int64(binary.BigEndian.Uint64(b))).UTC()
	copy(p.Head[:], b[8:])
	p.Seq = int(binary.BigEndian.Uint32(b[24:]))
	if y := p.At.Year(); y < 1970 || y > 9000 {
		return TrailPlace{}, errors.New("there is no such place in the trail")
	}
	return p, nil
}

// TrailLine is one entry with the thing that it is about.
type TrailLine struct {
	TrailEntry `gorm:"embedded"`
	Kind       string
	Number     string
	Drawer     string
}

// Place is the place behind the entry.
func (l TrailLine) Place() TrailPlace { return TrailPlace{l.At, l.Head, l.Seq} }

// TrailAcross lists entries of all things, newest first unless it is asked otherwise, behind a place.
func (r Reader) TrailAcross(q TrailQuery, limit int) (out []TrailLine, err error) {
	db := r.db.Table("trail t").Select("t.*, h.kind, h.number, h.drawer").Joins("JOIN heads h ON h.id = t.head")
	if !q.Account.IsZero() {
		db = db.Where("t.account = ?", q.Account)
	}
	if len(q.Kinds) > 0 {
		db = db.Where("h.kind IN ?", q.Kinds)
	}
	if len(q.Drawers) > 0 {
		db = db.Where("h.drawer IN ?", q.Drawers)
	}
	if !q.From.IsZero() {
		db = db.Where("t.at >= ?", q.From)
	}
	if !q.To.IsZero() {
		db = db.Where("t.at < ?", q.To)
	}
	if q.Deeds != nil {
		if len(q.Deeds) == 0 {
			return nil, nil
		}
		db = db.Where("t.deed IN ?", q.Deeds)
	}
	order, behind := "t.at DESC, t.head DESC, t.seq DESC", "t.at <= ? AND (t.at, t.head, t.seq) < (?, ?, ?)"
	if q.Oldest {
		order, behind = "t.at, t.head, t.seq", "t.at >= ? AND (t.at, t.head, t.seq) > (?, ?, ?)"
	}
	if p := q.After; !p.IsZero() {
		db = db.Where(behind, p.At, p.At, p.Head, p.Seq)
	}
	err = db.Order(order).Limit(limit).Find(&out).Error
	return out, err
}

// mostDeedsOfFile is more than anybody does with one file, and few enough to be asked for by name.
const mostDeedsOfFile = 20_000

// DeedsWithFile lists the deeds on intakes, BOMs and deliveries of a file, by its name or the hash of its bytes; at most mostDeedsOfFile.
func (r Reader) DeedsWithFile(file string) (out []ID, err error) {
	err = r.db.Raw("SELECT DISTINCT t.deed FROM heads h JOIN contents c ON c.id = COALESCE(h.draft, h.released) JOIN trail t ON t.head = h.id "+
		"WHERE h.kind IN ('intake', 'bom', 'delivery') AND JSON_SEARCH(CONVERT(c.bytes USING utf8mb4), 'one', ?, '!') IS NOT NULL LIMIT ?", likeExactly(file), mostDeedsOfFile).Scan(&out).Error
	if out == nil {
		out = []ID{}
	}
	return out, err
}

// likeExactly writes a text as a pattern of LIKE that only the text itself fits; ! stands before what would be a sign.
func likeExactly(s string) string {
	out := make([]byte, 0, len(s))
	for i := range len(s) {
		if c := s[i]; c == '%' || c == '_' || c == '!' {
			out = append(out, '!')
		}
		out = append(out, s[i])
	}
	return string(out)
}
