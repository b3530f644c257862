package api

import (
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

type none struct{ Reading }

type ByKey struct {
	Reading
	Key string `path:"key" doc:"Identifier or number"`
}

type ByID struct {
	Reading
	ID string `path:"id" format:"uuid"`
}

func id(text string) (deed.ID, error) {
	v, err := deed.ParseID(text)
	if err != nil {
		err = &deed.Error{Kind: deed.Unknown, Type: "not-found", What: "There is nothing with this identifier."}
	}
	return v, err
}

// with parses an identifier and a version, then does fn.
func with[O any](text string, b BasedOn, fn func(deed.ID, int) (O, error)) (out O, err error) {
	v, err := b.version()
	if err != nil {
		return out, err
	}
	i, err := id(text)
	if err != nil {
		return out, err
	}
	return fn(i, v)
}

type TextInput struct {
	BasedOn
	Body wire.Text
}

type partInput struct {
	Writing
	Body wire.PartEdit
}

type partChange[B any] struct {
	BasedOn
	Key  string `path:"key"`
	Body B
}

type modelChange[B any] struct {
	BasedOn
	ID   string `path:"id" format:"uuid"`
	Body B
}

// change hands a write on a part to the service with the version it is based on.
func change[B, O any](in *partChange[B], fn func(key string, version int, body B) (O, error)) (out O, err error) {
	n, err := in.version()
	if err != nil {
		return out, err
	}
	return fn(in.Key, n, in.Body)
}

type body[B any] struct {
	Writing
	Body B
}

type asked[B any] struct {
	Reading
	Body B
}

type byKey struct {
	Reading
	Key string `path:"key"`
}
