package wire

import "time"

// WatchEdit says what is to be watched, or no more.
type WatchEdit struct {
	Of    string `json:"of" enum:"part,model,bom,want,drawer,kind,question"`
	About string `json:"about" minLength:"1" maxLength:"250" doc:"Number, name or identifier of a thing; key of a drawer; kind of model; a question as in the lookup box"`
}

// Watch is something that the caller wants to hear of.
type Watch struct {
	Of    string    `json:"of"`
	About string    `json:"about" doc:"Identifier of a thing; key of a drawer; kind of model; the question"`
	Name  string    `json:"name"`
	Since time.Time `json:"since"`
}

// WatchList lists watches.
type WatchList struct {
	Items []Watch `json:"items"`
}

// NoticeThing is something that a notice is about.
type NoticeThing struct {
	Kind   string `json:"kind"`
	ID     string `json:"id"`
	Number string `json:"number"`
}

// NoticeBody is what a notice says beside its title.
type NoticeBody struct {
	By     string        `json:"by,omitempty" doc:"Whose deed it was"`
	Why    string        `json:"why" doc:"Why you are told"`
	Things []NoticeThing `json:"things"`
	More   int           `json:"more,omitempty" doc:"How many things it is about beside those"`
}

// Notice is what a person is told of one deed.
type Notice struct {
	ID    string    `json:"id"`
	N     int64     `json:"n" doc:"Counts on from notice to notice"`
	At    time.Time `json:"at"`
	Title string    `json:"title"`
	Seen  bool      `json:"seen"`
	NoticeBody
}

// NoticeList is a page of notices, newest first.
type NoticeList struct {
	Items  []Notice `json:"items"`
	Unread int64    `json:"unread" doc:"How many were not seen yet, of all"`
	Page   Page     `json:"page"`
}

// SeeNotices says which notices were seen.
type SeeNotices struct {
	IDs  []string `json:"ids,omitempty" maxItems:"200"`
	UpTo int64    `json:"upTo,omitempty" minimum:"0" doc:"In the place of identifiers: all up to this one"`
}

// Unread counts what was not seen.
type Unread struct {
	Unread int64 `json:"unread"`
}

// Told says how the caller is told beside the console.
type Told struct {
	Version int       `json:"version" doc:"0 before anything was said"`
	Mail    string    `json:"mail,omitempty"`
	Rhythm  string    `json:"rhythm" enum:"none,once,hour,day" doc:"Of mail: none, for each deed at once, a digest each hour, or each morning"`
	Hook    string    `json:"hook,omitempty" doc:"Address that a CloudEvent is sent to for each notice"`
	Secret  string    `json:"secret,omitempty" doc:"Base64 of the key that signs calls of the hook"`
	KeyID   string    `json:"keyId,omitempty"`
	Mails   bool      `json:"mails" doc:"Whether the installation sends mail"`
	Next    time.Time `json:"next,omitzero" doc:"When the next digest goes out"`
}

// ToldEdit changes how the caller is told.
type ToldEdit struct {
	Mail   string `json:"mail,omitempty" maxLength:"200"`
	Rhythm string `json:"rhythm" enum:"none,once,hour,day"`
	Hook   string `json:"hook,omitempty" maxLength:"500"`
	NewKey bool   `json:"newKey,omitempty" doc:"Sign with a new key from now on"`
}

// Sending is a mail or a call of a hook that waits, or was set aside.
type Sending struct {
	ID      string    `json:"id"`
	Way     string    `json:"way" enum:"mail,hook"`
	Whose   string    `json:"whose"`
	Address string    `json:"address"`
	State   string    `json:"state" enum:"waiting,aside"`
	Tries   int       `json:"tries"`
	Problem string    `json:"problem,omitempty"`
	Made    time.Time `json:"made"`
	Due     time.Time `json:"due" doc:"When it is tried again"`
}

// SendingList is a page of sendings, newest first.
type SendingList struct {
	Items []Sending `json:"items"`
	Page  Page      `json:"page"`
}
