// Package standin is a simulated supplier: a real HTTP server on loopback that hands out the exports and datasheets of
// the demo's suppliers. Nothing outside this machine is ever asked.
package standin

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"net"
	"net/http"
	"time"
)

// Server is a running stand-in.
type Server struct {
	URL  string
	http *http.Server
}

// Start serves the folders suppliers, datasheets, deliveries and old-library of files on loopback: on the given address where that
// is free, else on a free port. Links to http://suppliers.invalid in a table lead to this server.
func Start(files fs.FS, address string) (*Server, error) {
	l, err := net.Listen("tcp", address)
	if err != nil {
		l, err = net.Listen("tcp", "127.0.0.1:0")
	}
	if err != nil {
		return nil, fmt.Errorf("the simulated suppliers cannot be started: %w", err)
	}
	mux := http.NewServeMux()
	mux.HandleFunc("GET /{folder}/{name}", func(w http.ResponseWriter, r *http.Request) {
		folder, name := r.PathValue("folder"), r.PathValue("name")
		if folder != "suppliers" && folder != "datasheets" && folder != "old-library" && folder != "deliveries" {
			http.NotFound(w, r)
			return
		}
		raw, err := fs.ReadFile(files, folder+"/"+name)
		if errors.Is(err, fs.ErrNotExist) || errors.Is(err, fs.ErrInvalid) {
			http.NotFound(w, r)
			return
		}
		if err != nil {
			http.Error(w, "the file cannot be read", http.StatusInternalServerError)
			return
		}
		w.Header().Set("Content-Type", "application/octet-stream")
		if folder == "old-library" {
			raw = bytes.ReplaceAll(raw, []byte("http://suppliers.invalid"), []byte("http://"+l.Addr().String()))
		}
		_, _ = w.Write(raw)
	})
	s := &Server{URL: "http://" + l.Addr().String(), http: &http.Server{Handler: mux, ReadHeaderTimeout: 5 * time.Second}}
	go func() { _ = s.http.Serve(l) }()
	return s, nil
}

// Close stops serving.
func (s *Server) Close() error { return s.http.Close() }
