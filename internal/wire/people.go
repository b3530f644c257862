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
