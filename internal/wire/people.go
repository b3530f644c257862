package wire

import "time"

// Me is the person who is signed in.
type Me struct {
	ID    string   `json:"id"`
	Login string   `json:"login"`
	Name  string   `json:"name"`
	Role  string   `json:"role" enum:"reader,engineer,librarian,administrator"`
	May   []string `json:"may" doc:"The operations this role allows"`
	CSRF  string   `json:"csrf,omitempty" doc:"To be sent as X-CSRF-Token with every change made with the session cookie"`
}

// SignIn is the request for a session.
type SignIn struct {
	Login    string `json:"login" maxLength:"64"`
	Password string `json:"password" maxLength:"200"`
}

// Account is a person who may sign in.
type Account struct {
	ID       string `json:"id"`
	Login    string `json:"login"`
	Name     string `json:"name"`
	Role     string `json:"role"`
	Disabled bool   `json:"disabled"`
}

// NewAccount is the request for an account.
type NewAccount struct {
	Login    string `json:"login" minLength:"2" maxLength:"64" pattern:"^[a-z][a-z0-9._-]*$"`
	Name     string `json:"name" minLength:"1" maxLength:"120"`
	Role     string `json:"role" enum:"reader,engineer,librarian,administrator"`
	Password string `json:"password" maxLength:"200"`
}

// AccountChange changes an account; what is left out stays.
type AccountChange struct {
	Role     string `json:"role,omitempty" enum:"reader,engineer,librarian,administrator"`
	Password string `json:"password,omitempty" maxLength:"200"`
	Disabled *bool  `json:"disabled,omitempty"`
}

// OwnPassword changes one's own password.
type OwnPassword struct {
	Password string `json:"password" maxLength:"200" doc:"the one that is to be changed"`
	Next     string `json:"next" maxLength:"200" doc:"the one that takes its place"`
}

// Token is a personal API token. The secret is shown once, when it is made.
type Token struct {
	ID      string    `json:"id"`
	Name    string    `json:"name"`
	Created time.Time `json:"created"`
	Expires time.Time `json:"expires"`
	Secret  string    `json:"secret,omitempty"`
}

// NewToken is the request for a token.
type NewToken struct {
	Name string `json:"name" minLength:"1" maxLength:"120"`
	Days int    `json:"days" minimum:"1" maximum:"730" default:"365"`
}

// Group is people who answer for some drawers or kinds of model.
type Group struct {
	ID      string        `json:"id"`
	Version int           `json:"version"`
	Name    string        `json:"name"`
	About   string        `json:"about"`
	Members []GroupMember `json:"members"`
	Drawers []string      `json:"drawers"`
	Kinds   []string      `json:"kinds" doc:"Of models"`
	Mine    bool          `json:"mine" doc:"The caller is in it"`
}

// GroupMember is a person in a group.
type GroupMember struct {
	Login string `json:"login"`
	Name  string `json:"name"`
	Role  string `json:"role"`
}

// GroupList lists the groups.
type GroupList struct {
	Items []Group `json:"items"`
}

// GroupEdit is what a group is to be.
type GroupEdit struct {
	Name    string   `json:"name" minLength:"1" maxLength:"60"`
	About   string   `json:"about,omitempty" maxLength:"200"`
	Members []string `json:"members" maxItems:"500" doc:"Logins"`
	Drawers []string `json:"drawers,omitempty" maxItems:"500" doc:"Keys of drawers that it answers for, with those inside"`
	Kinds   []string `json:"kinds,omitempty" maxItems:"4" doc:"symbol, land pattern, body, pin map"`
}
