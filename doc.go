// Package jollydrawer is the root of Jolly Drawer: a shared parameterised parts database with its service, command
// line and console. The program is in cmd/jolly; the computation that others may import is in core.
package jollydrawer
