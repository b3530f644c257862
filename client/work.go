package client

import (
	"context"
	"time"

	"jollydrawer/internal/wire"
)

// Job returns a job.
func (c *Client) Job(ctx context.Context, id string) (wire.Job, error) {
	return get[wire.Job](ctx, c, "/jobs/"+seg(id), nil)
}

// StopJob asks for a job to be stopped.
func (c *Client) StopJob(ctx context.Context, id string) (wire.Job, error) {
	return post[wire.Job](ctx, c, "/jobs/"+seg(id)+"/stop", nil)
}

// WaitJob asks for a job until it has ended; tell, where set, hears of its progress.
func (c *Client) WaitJob(ctx context.Context, id string, tell func(wire.Job)) (wire.Job, error) {
	for {
		j, err := c.Job(ctx, id)
		if err != nil {
			return j, err
		}
		if tell != nil {
			tell(j)
		}
		if j.State != "waiting" && j.State != "running" {
			return j, nil
		}
		select {
		case <-ctx.Done():
			return j, ctx.Err()
		case <-time.After(100 * time.Millisecond):
		}
	}
}
