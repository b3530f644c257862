// Package sending is how answers go out over HTTP, whatever they say: in turn, only where the client has not got them already, and
// compressed.
package sending

import (
	"bytes"
	"net/http"
	"sync"

	"github.com/gin-gonic/gin"
)

// Turns lets as many answers of a route compute at once as there are processors, in the order in which they came. Without
// it a connection whose next request is already there is served on and on, while the others wait until the runtime next
// looks at the network: half of the answers are quicker, and one in twenty takes five times as long.
type Turns struct {
	route string
	taken chan struct{}
}

// NewTurns are n turns for a route whose answers are worked out in memory and keep a processor busy for a millisecond. What waits
// for the database needs none.
func NewTurns(route string, n int) Turns { return Turns{route, make(chan struct{}, n)} }

// Take waits for a turn, lets the request be answered into memory, and sends the answer when the turn has passed: a
// client that reads slowly keeps nobody waiting.
func (t Turns) Take(c *gin.Context) {
	if c.Request.Method != http.MethodGet || c.FullPath() != t.route {
		return
	}
	select {
	case t.taken <- struct{}{}:
	case <-c.Request.Context().Done():
		c.Abort()
		return
	}
	body := answerBodies.Get().(*bytes.Buffer)
	defer func() {
		if body.Cap() < 1<<20 {
			body.Reset()
			answerBodies.Put(body)
		}
	}()
	t.answer(c, body)
	_, _ = c.Writer.Write(body.Bytes()) // a client that left needs no answer
}

func (t Turns) answer(c *gin.Context, into *bytes.Buffer) {
	direct := c.Writer
	c.Writer = &keptAnswer{direct, into}
	defer func() {
		c.Writer = direct // also for what is sent after a panic
		<-t.taken
	}()
	c.Next()
}

var answerBodies = sync.Pool{New: func() any { return new(bytes.Buffer) }}

// keptAnswer holds a body back; status and headers are those of the writer behind it, which sends them with the body.
type keptAnswer struct {
	gin.ResponseWriter
	body *bytes.Buffer
}

func (k *keptAnswer) Write(b []byte) (int, error)       { return k.body.Write(b) }
func (k *keptAnswer) WriteString(s string) (int, error) { return k.body.WriteString(s) }
