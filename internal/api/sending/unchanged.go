package sending

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"
)

// mostHeld is the length in bytes up to which an answer is held back to be compared with what the client has.
const mostHeld = 2 << 20

// Unchanged spares a client the answer that it has already (RFC 9110, section 13.1.2). The ETag of a JSON answer is the version of
// the thing, where it has one, and a hash of all that is said about it: drawings, uses and findings change without the version.
func Unchanged(c *gin.Context) {
	if c.Request.Method != http.MethodGet || !strings.HasPrefix(c.Request.URL.Path, "/api/v1/") {
		return
	}
	held := heldAnswer(c)
	if held == nil {
		return
	}
	sum := sha256.Sum256(held)
	tag := hex.EncodeToString(sum[:10])
	if version := strings.Trim(c.Writer.Header().Get("ETag"), `"`); version != "" {
		tag = version + "-" + tag
	}
	tag = `"` + tag + `"`
	c.Header("ETag", tag)
	if Has(c, tag) {
		c.Writer.Header().Del("Content-Type")
		c.Status(http.StatusNotModified)
		c.Writer.WriteHeaderNow()
		return
	}
	_, _ = c.Writer.Write(held) // a client that left needs no answer
}

// Has says whether the client has what an ETag names.
func Has(c *gin.Context, tag string) bool {
	return slices.ContainsFunc(strings.Split(c.GetHeader("If-None-Match"), ","), func(one string) bool { return strings.TrimPrefix(strings.TrimSpace(one), "W/") == tag })
}

// heldAnswer lets the request be answered and returns the answer that was held back; nil where it went out as it came: what is no
// JSON, no success, a stream or very long.
func heldAnswer(c *gin.Context) []byte {
	direct := c.Writer
	h := &holding{ResponseWriter: direct}
	c.Writer = h
	defer func() { c.Writer = direct }() // also for what is sent after a panic
	c.Next()
	if h.through {
		return nil
	}
	return h.body.Bytes()
}

// holding is a writer that holds a JSON answer back until it is whole.
type holding struct {
	gin.ResponseWriter
	body    bytes.Buffer
	through bool
}

func (h *holding) Write(b []byte) (int, error) {
	if !h.through && (h.Status() != http.StatusOK || !strings.HasPrefix(h.Header().Get("Content-Type"), "application/json") || h.body.Len()+len(b) > mostHeld) {
		if err := h.open(); err != nil {
			return 0, err
		}
	}
	if h.through {
		return h.ResponseWriter.Write(b)
	}
	return h.body.Write(b)
}

func (h *holding) WriteString(s string) (int, error) { return h.Write([]byte(s)) }

func (h *holding) Flush() {
	_ = h.open()
	h.ResponseWriter.Flush()
}

// Unwrap gives http.ResponseController the writer behind.
func (h *holding) Unwrap() http.ResponseWriter { return h.ResponseWriter }

// open lets what was held back out; what comes after it follows at once.
func (h *holding) open() error {
	h.through = true
	if h.body.Len() == 0 { // an empty piece would be taken for the whole of it by what compresses
		return nil
	}
	_, err := h.ResponseWriter.Write(h.body.Bytes())
	h.body.Reset()
	return err
}
