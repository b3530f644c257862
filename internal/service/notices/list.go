package notices

import (
	"context"
	"encoding/json"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// List lists what the caller was told, newest first.
func (s *Notices) List(ctx context.Context, c deed.Call, unseen bool, offset, limit int) (wire.NoticeList, error) {
	out := wire.NoticeList{Items: []wire.Notice{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	offset, limit = deed.Page(offset, limit)
	all, total, unread, err := s.Store.Read(ctx).Notices(c.Actor.ID, unseen, offset, limit)
	if err != nil {
		return out, err
	}
	out.Unread, out.Page = unread, wire.Page{Total: int(total), Offset: offset, Limit: limit}
	for _, n := range all {
		v := wire.Notice{ID: n.ID.String(), N: n.N, At: n.At, Title: n.Title, Seen: n.Seen != nil}
		if err := json.Unmarshal([]byte(n.Body), &v.NoticeBody); err != nil {
			return out, err
		}
		out.Items = append(out.Items, v)
	}
	return out, nil
}

// Unread counts what the caller was told and has not seen.
func (s *Notices) Unread(ctx context.Context, c deed.Call) (out wire.Unread, err error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	out.Unread, err = s.Store.Read(ctx).Unread(c.Actor.ID)
	return out, err
}

// See notes that the caller has seen notices.
func (s *Notices) See(ctx context.Context, c deed.Call, in wire.SeeNotices) (wire.Unread, error) {
	ids := []store.ID{}
	for _, text := range in.IDs {
		id, err := store.ParseID(text)
		if err != nil {
			return wire.Unread{}, deed.Fault(deed.Invalid, "notice-unknown", "There is no notice "+text+".", "")
		}
		ids = append(ids, id)
	}
	if len(ids) == 0 && in.UpTo == 0 {
		return wire.Unread{}, deed.Fault(deed.Invalid, "notices-none", "No notice is named.", "Name some, or all up to one.")
	}
	if _, err := deed.Do(ctx, s.Desk, c, deed.OpWatch, "notice", in, func(t *store.Tx) (int64, error) { return t.SeeNotices(c.Actor.ID, ids, in.UpTo) }); err != nil {
		return wire.Unread{}, err
	}
	return s.Unread(ctx, c)
}
