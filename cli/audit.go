package cli

import (
	"context"
	"errors"
	"strconv"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
)

func verifyCommand() *ucli.Command {
	x := command("verify", "recompute hashes, trails and projections, and name every difference", "", "jolly verify", 0, 0, nil, func(ctx context.Context, c *ucli.Command, k *client.Client) error {
		j, err := k.StartVerify(ctx)
		if err == nil {
			j, err = waitJob(ctx, k, j, "records")
		}
		if err == nil && j.Verified == nil {
			err = errors.New(j.Error)
		}
		if err != nil {
			return err
		}
		v := *j.Verified
		if err := emit(c, v, func() table {
			t := pairs("Records", strconv.Itoa(v.Heads), "Contents", strconv.Itoa(v.Contents), "Trail entries", strconv.Itoa(v.Entries), "Differences", strconv.Itoa(len(v.Different)))
			for _, d := range v.Different {
				t = append(t, []string{"Different", d})
			}
			return t
		}); err != nil {
			return err
		}
		if len(v.Different) > 0 {
			return ErrFindings
		}
		return nil
	})
	x.Category = "service"
	return x
}
