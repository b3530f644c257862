package cli

import (
	"context"
	"errors"
	"net/http"
	"strconv"
	"strings"

	ucli "github.com/urfave/cli/v3"

	"jollydrawer/client"
	"jollydrawer/core/model"
	"jollydrawer/internal/wire"
)

func listTwins(ctx context.Context, c *ucli.Command, k *client.Client) error {
	l, err := k.Twins(ctx, c.String("kind"))
	if err != nil {
		return err
	}
	return emit(c, l, func() table {
		t := table{{"Cluster", "Kind", "How", "Name", "Uses", "Status"}}
		for i, w := range l.Clusters {
			how := "the same"
			if !w.Exact {
				how = "nearly: " + strings.Join(w.What, "; ")
			}
			for _, m := range w.Models {
				t = append(t, []string{strconv.Itoa(i + 1), w.Kind, how, m.Name, strconv.Itoa(m.Uses), m.Status})
			}
		}
		return t
	})
}

func unmergeModel(ctx context.Context, c *ucli.Command, k *client.Client) error {
	kinds := model.Kinds
	if k := c.String("kind"); k != "" {
		kinds = []model.Kind{model.Kind(k)}
	}
	var out wire.Mended
	var err error
	for _, of := range kinds {
		if out, err = k.TakeMergingBack(ctx, wire.TakeMergingBack{Model: string(of) + ": " + c.Args().First(), Why: c.String("why")}); err == nil {
			break
		}
		if e := new(client.Error); !errors.As(err, &e) || e.Status != http.StatusNotFound {
			break
		}
	}
	return mended(c, out, err)
}

func mergeModels(ctx context.Context, c *ucli.Command, k *client.Client) error {
	ids, err := modelIDs(ctx, k, c, c.Args().Slice())
	if err != nil {
		return err
	}
	different, err := modelIDs(ctx, k, c, c.StringSlice("different"))
	if err != nil {
		return err
	}
	out, err := k.MergeModels(ctx, wire.MergeModels{Keep: ids[0], Gone: ids[1:], Different: different, Why: c.String("why"), All: c.Bool("move-all"), Move: c.StringSlice("move")})
	return mended(c, out, err)
}
