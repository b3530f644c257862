package reform

import (
	"context"

	"jollydrawer/internal/wire"
)

// PreviewOfEach is a preview that looks at every part, whatever the steps.
func (s *Reform) PreviewOfEach(ctx context.Context, in wire.CabinetChange) (wire.ChangePreview, error) {
	return s.preview(ctx, in, true)
}
