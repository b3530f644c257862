package main

import ucli "github.com/urfave/cli/v3"

func demoCommand() *ucli.Command { return &ucli.Command{Name: "demo"} }
