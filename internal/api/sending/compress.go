package sending

import (
	"net/http"
	"strings"

	"github.com/klauspost/compress/gzhttp"
	"github.com/klauspost/compress/gzip"
)

// leastCompressed is the length in bytes from which an answer is compressed: below it a packet is a packet.
const leastCompressed = 1400

// Compressed compresses what is worth it for those who take it: the console's files, pages of lists, drawings. Events go out
// one by one as they are.
func Compressed(h http.Handler) (http.Handler, error) {
	wrap, err := gzhttp.NewWrapper(gzhttp.MinSize(leastCompressed), gzhttp.CompressionLevel(gzip.BestSpeed), gzhttp.EnableZstd(false),
		gzhttp.ContentTypeFilter(func(kind string) bool {
			return !strings.HasPrefix(kind, "text/event-stream") && gzhttp.DefaultContentTypeFilter(kind)
		}))
	if err != nil {
		return nil, err
	}
	return wrap(h), nil
}
