package wire

// File is a stored file.
type File struct {
	Hash string `json:"hash" doc:"SHA-256, hexadecimal"`
	Name string `json:"name"`
	Size int64  `json:"size"`
}
