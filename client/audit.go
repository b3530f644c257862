package client

import (
	"context"
	"errors"

	"jollydrawer/internal/wire"
)

// StartVerify starts recomputing what is stored.
func (c *Client) StartVerify(ctx context.Context) (wire.Job, error) {
	return post[wire.Job](ctx, c, "/verification", nil)
}

// Verify recomputes what is stored and waits for the outcome.
func (c *Client) Verify(ctx context.Context) (wire.Verification, error) {
	j, err := c.StartVerify(ctx)
	if err == nil {
		j, err = c.WaitJob(ctx, j.ID, nil)
	}
	if err == nil && j.Verified == nil {
		err = errors.New("verifying ended without an outcome: " + j.Error)
	}
	if err != nil {
		return wire.Verification{}, err
	}
	return *j.Verified, nil
}
