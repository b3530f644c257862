package main

import (
	"fmt"
	"os"
	"strings"

	"go.yaml.in/yaml/v3"

	"jollydrawer/internal/config"
	"jollydrawer/internal/supplier"
)

// secrets gives the secrets by which suppliers know who asks: from the environment, JOLLY_SECRET_ and the name in capitals with _ for -, else from the
// file of secrets. The file is read once; nothing of it is ever kept, logged or shown.
func secrets(set config.Settings) (supplier.Secrets, error) {
	kept := map[string]string{}
	for name, secret := range set.Secrets {
		kept[name] = secret
	}
	if set.SecretFile != "" {
		info, err := os.Stat(set.SecretFile)
		if err != nil {
			return nil, fmt.Errorf("the file of secrets cannot be read: %w", err)
		}
		if info.Mode().Perm()&0o077 != 0 {
			return nil, fmt.Errorf("the file of secrets %s can be read by others: chmod 600 it", set.SecretFile)
		}
		raw, err := os.ReadFile(set.SecretFile)
		if err != nil {
			return nil, fmt.Errorf("the file of secrets cannot be read: %w", err)
		}
		if yaml.Unmarshal(raw, &kept) != nil { // what is wrong with it would quote it
			return nil, fmt.Errorf("the file of secrets %s is no YAML of the form NAME: SECRET", set.SecretFile)
		}
	}
	return func(name string) (string, bool) {
		if s, ok := os.LookupEnv("JOLLY_SECRET_" + strings.ToUpper(strings.ReplaceAll(name, "-", "_"))); ok {
			return s, true
		}
		s, ok := kept[name]
		return s, ok
	}, nil
}
