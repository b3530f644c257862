package offers

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"time"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Hour is a time of day in UTC at which suppliers are asked by night; blank: they are asked when somebody wants it.
type Hour string

// ParseHour reads a time such as 02:30.
func ParseHour(text string) (Hour, error) {
	if text == "" {
		return "", nil
	}
	if _, err := time.Parse("15:04", text); err != nil || len(text) != 5 {
		return "", fmt.Errorf("%q is no time of day such as 02:30", text)
	}
	return Hour(text), nil
}

// Night starts the night's refresh where its time has come: price lists and all sources, once for all instances, in the name of the administrator who
// is there longest. It says whether there is one for this day.
func (s *Offers) Night(ctx context.Context, at Hour) (started bool, err error) {
	now := s.Now().UTC()
	if at == "" || now.Format("15:04") < string(at) {
		return false, nil
	}
	h := sha256.Sum256([]byte("refresh of the night " + now.Format(time.DateOnly)))
	var id store.ID // the same on every instance: a second one finds the job there
	copy(id[:], h[:])
	if _, err := s.Store.Read(ctx).JobOfDeed(id); !errors.Is(err, store.ErrNotFound) {
		return err == nil, err
	}
	who, err := s.Store.Read(ctx).FirstAdministrator(string(deed.Administrator))
	if err != nil {
		return false, err
	}
	_, err = s.Refresh(ctx, deed.Call{Actor: deed.Actor{ID: who.ID, Login: who.Login, Name: who.Name, Role: deed.Role(who.Role)}, Deed: id}, wire.RefreshOffers{Lists: true})
	var said *deed.Error
	if errors.As(err, &said) && (said.Type == "no-connections" || said.Type == "no-sources") { // nothing to ask for
		return false, nil
	}
	return err == nil, err
}
