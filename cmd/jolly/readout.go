package main

import (
	"fmt"
	"os"
	"path/filepath"

	"github.com/go-sql-driver/mysql"

	"jollydrawer/internal/dbserver"
)

// readoutSignIn leaves in a file that only the owner can read what a design tool signs in with, and says where that is.
func readoutSignIn(data string, db *dbserver.Server) (string, error) {
	_, reader := db.ReadoutDSNs(dbserver.Database)
	c, err := mysql.ParseDSN(reader)
	if err != nil {
		return "", err
	}
	path := filepath.Join(data, "readout-sign-in.txt")
	text := fmt.Sprintf("server   127.0.0.1\nport     %d\nschema   %s\nuser     %s\npassword %s\n\nODBC     Driver={MariaDB Unicode};Server=127.0.0.1;Port=%d;Database=%s;User=%s;Password=%s\n",
		db.Port, c.DBName, c.User, c.Passwd, db.Port, c.DBName, c.User, c.Passwd)
	if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
		return "", fmt.Errorf("the file %s cannot be written: %w", path, err)
	}
	return fmt.Sprintf("%s at 127.0.0.1:%d (password in %s)", c.User, db.Port, path), nil
}
