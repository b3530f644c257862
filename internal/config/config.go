// Package config holds the service's settings: from flags, then the environment, then one file, then defaults.
package config

import (
	"fmt"
	"net"
	"net/mail"
	"net/url"
	"os"
	"strings"
	"time"

	"github.com/urfave/cli/v3"
	"go.yaml.in/yaml/v3"

	"jollydrawer/internal/auth"
)

// Settings of the service.
type Settings struct {
	Listen       string
	Data         string
	DSN          string
	OwnerDSN     string
	ReadoutDSN   string
	KeyFile      string
	MailServer   string
	MailFrom     string
	MailUser     string
	Public       string // base of addresses that others follow, without a slash at the end; blank where nobody said it
	DatabasePort int
	MaxUploadMB  int
	Lease        time.Duration
	Passwords    auth.Cost // of those that are set from now on; zero: auth.Usual
	LogFormat    string
	LogLevel     string
	SecureCookie bool
	AllowInside  []string
	KeepDays     int
	SecretFile   string
	RefreshAt    string            // time of day, UTC; blank: never
	Secrets      map[string]string // by name; only the demo sets them, whose suppliers are simulated
}

// Flags are the settings as flags of `jolly serve`; each can also be set by its environment variable, or by its name
// in the file that --config names.
func Flags() []cli.Flag {
	env := func(name string) cli.ValueSourceChain {
		return cli.EnvVars("JOLLY_" + strings.ToUpper(strings.ReplaceAll(name, "-", "_")))
	}
	return []cli.Flag{
		&cli.StringFlag{Name: "config", Usage: "YAML `FILE` with settings, by the names of these flags", Sources: env("config")},
		&cli.StringFlag{Name: "listen", Value: "127.0.0.1:8090", Usage: "`ADDRESS` to serve on", Sources: env("listen")},
		&cli.StringFlag{Name: "data", Value: ".run", Usage: "`FOLDER` of the private database", Sources: env("data")},
		&cli.StringFlag{Name: "database-dsn", Usage: "`DSN` of a MariaDB of your own, for the service's account; no private server is started", Sources: env("database-dsn")},
		&cli.StringFlag{Name: "database-owner-dsn", Usage: "`DSN` of the account that migrates; blank: the service's own", Sources: env("database-owner-dsn")},
		&cli.StringFlag{Name: "readout-dsn", Usage: "`DSN` of the account that makes the tables design tools read, with --database-dsn; see jolly grants", Sources: env("readout-dsn")},
		&cli.StringFlag{Name: "public-address", Usage: "`URL` under which people reach the service, for addresses in tables and mail; blank: http:// and the address that it listens on", Sources: env("public-address")},
		&cli.StringFlag{Name: "key-file", Usage: "`FILE` with the installation's own key, the same for all instances; blank: one in the folder --data, made when it is not there", Sources: env("key-file")},
		&cli.StringFlag{Name: "secret-file", Usage: "YAML `FILE` of the secrets by which suppliers know who asks, NAME: SECRET; readable by nobody else. A secret can also be the environment variable JOLLY_SECRET_NAME", Sources: env("secret-file")},
		&cli.StringFlag{Name: "refresh-at", Usage: "`TIME` of day (UTC), such as 02:30, at which price lists are fetched and suppliers are asked for all parts; blank: only when somebody wants it", Sources: env("refresh-at")},
		&cli.StringFlag{Name: "mail-server", Usage: "`HOST:PORT` of the server that takes mail; blank sends none. Its password is read from JOLLY_MAIL_PASSWORD", Sources: env("mail-server")},
		&cli.StringFlag{Name: "mail-from", Usage: "`ADDRESS` that mail comes from", Sources: env("mail-from")},
		&cli.StringFlag{Name: "mail-user", Usage: "`NAME` to sign in to the mail server with, over TLS only; blank does not sign in", Sources: env("mail-user")},
		&cli.IntFlag{Name: "database-port", Usage: "`PORT` of the private database; 0 takes a free one", Sources: env("database-port")},
		&cli.IntFlag{Name: "max-upload", Value: 128, Usage: "largest file that is taken, in `MB`", Sources: env("max-upload")},
		&cli.DurationFlag{Name: "lease", Value: 15 * time.Second, Usage: "how long a job waits for its instance before another takes over", Sources: env("lease")},
		&cli.StringFlag{Name: "password-cost", Value: "usual", Usage: "usual or least: what a guess at a password that is set from now on costs; usual takes 64 MB of memory for a moment, least 19 MB", Sources: env("password-cost")},
		&cli.StringFlag{Name: "log-format", Value: "text", Usage: "text or json", Sources: env("log-format")},
		&cli.StringFlag{Name: "log-level", Value: "info", Usage: "debug, info, warn or error", Sources: env("log-level")},
		&cli.StringSliceFlag{Name: "allow-inside", Usage: "`HOST:PORT` (or HOST:*) inside a private network that datasheets and old databases may be fetched from; may be given several times", Sources: env("allow-inside")},
		&cli.IntFlag{Name: "keep-days", Value: 90, Usage: "for how many `DAYS` ended jobs, the feed and the answers to deeds are kept; records, revisions and trails are kept for good", Sources: env("keep-days")},
		&cli.BoolFlag{Name: "secure-cookie", Usage: "send the session cookie over HTTPS only; set it when a proxy ends TLS", Sources: env("secure-cookie")},
	}
}

// Load reads the settings of a command line that was parsed with Flags.
func Load(cmd *cli.Command) (Settings, error) {
	if path := cmd.String("config"); path != "" {
		raw, err := os.ReadFile(path)
		if err != nil {
			return Settings{}, fmt.Errorf("the settings file cannot be read: %w", err)
		}
		var file map[string]any
		if err := yaml.Unmarshal(raw, &file); err != nil {
			return Settings{}, fmt.Errorf("the settings file %s is no YAML: %w", path, err)
		}
		known := map[string]bool{}
		for _, f := range cmd.Flags {
			known[f.Names()[0]] = true
		}
		for name, v := range file {
			if !known[name] || name == "config" {
				return Settings{}, fmt.Errorf("the settings file %s names %q, which is no setting", path, name)
			}
			if !cmd.IsSet(name) {
				if err := cmd.Set(name, fmt.Sprint(v)); err != nil {
					return Settings{}, fmt.Errorf("the setting %s in %s: %w", name, path, err)
				}
			}
		}
	}
	s := Settings{Listen: cmd.String("listen"), Data: cmd.String("data"), DSN: cmd.String("database-dsn"), OwnerDSN: cmd.String("database-owner-dsn"), ReadoutDSN: cmd.String("readout-dsn"), KeyFile: cmd.String("key-file"), MailServer: cmd.String("mail-server"), MailFrom: cmd.String("mail-from"), MailUser: cmd.String("mail-user"), Public: strings.TrimRight(cmd.String("public-address"), "/"),
		DatabasePort: cmd.Int("database-port"), MaxUploadMB: cmd.Int("max-upload"), Lease: cmd.Duration("lease"), LogFormat: cmd.String("log-format"),
		LogLevel: cmd.String("log-level"), SecureCookie: cmd.Bool("secure-cookie"), AllowInside: cmd.StringSlice("allow-inside"), KeepDays: cmd.Int("keep-days"), SecretFile: cmd.String("secret-file"), RefreshAt: cmd.String("refresh-at")}
	var err error
	if s.Passwords, err = auth.CostNamed(cmd.String("password-cost")); err != nil {
		return s, fmt.Errorf("password-cost is %w", err)
	}
	if s.MaxUploadMB < 1 || s.Lease < time.Second || s.KeepDays < 1 {
		return s, fmt.Errorf("max-upload and keep-days must be at least 1 and lease at least 1s")
	}
	if u, err := url.Parse(s.Public); err != nil || s.Public != "" && (u.Host == "" || u.Scheme != "http" && u.Scheme != "https" || u.RawQuery != "" || u.Fragment != "") {
		return s, fmt.Errorf("public-address is %q: write an address such as https://parts.example.org", s.Public)
	}
	if s.MailServer != "" {
		if _, _, err := net.SplitHostPort(s.MailServer); err != nil {
			return s, fmt.Errorf("mail-server is %q: write HOST:PORT, such as mail.example.org:587", s.MailServer)
		}
		if a, err := mail.ParseAddress(s.MailFrom); err != nil || a.Address != s.MailFrom {
			return s, fmt.Errorf("mail-from is %q: with mail-server, write the address that mail comes from", s.MailFrom)
		}
	}
	if s.ReadoutDSN != "" && s.DSN == "" {
		return s, fmt.Errorf("readout-dsn goes with database-dsn: the private server has an account of its own for it")
	}
	return s, nil
}
