package main

import (
	"context"
	"fmt"
	"net"
	"path/filepath"
	"strconv"

	"ambrosa/internal/api"
	"ambrosa/internal/demo"
	"ambrosa/internal/program"

	"github.com/spf13/cobra"
)

func serveCommand(set *settings) *cobra.Command {
	return &cobra.Command{
		Use:   "serve",
		Short: "Run the server",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return set.run(cmd.Context(), func(s *program.Program) error {
				if n, err := s.Store.CountPeople(cmd.Context()); err != nil || n > 0 {
					return err
				}
				fmt.Println("Nobody can sign in yet. Make the first admin, in another terminal, with: ambrosa user add NAME --role admin")
				return nil
			}, nil)
		},
	}
}

func demoCommand(set *settings) *cobra.Command {
	return &cobra.Command{
		Use:   "demo",
		Short: "Run the server with the demo world of Pellmoor Kites",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			outside, hosts, err := demo.Begin(cmd.Context(), filepath.Join(set.Data, "outside"))
			if err != nil {
				return err
			}
			set.Door.Hosts, set.Outside = hosts, outside
			return set.run(cmd.Context(), func(s *program.Program) error { return demo.People(cmd.Context(), s) },
				func(s *program.Program) error { return demo.Fill(cmd.Context(), s) })
		},
	}
}

// run opens the service and answers until Ctrl-C. prepare runs before it listens, fill while it works.
func (set *settings) run(ctx context.Context, prepare, fill func(*program.Program) error) error {
	listener, err := program.Listen(net.JoinHostPort(set.host, strconv.Itoa(set.port)))
	if err != nil {
		return err
	}
	defer listener.Close()
	s, err := program.Open(ctx, set.Settings)
	if err != nil {
		return err
	}
	defer s.Close()
	s.Demo = fill != nil
	if err := prepare(s); err != nil {
		return err
	}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	served := make(chan error, 1)
	go func() { served <- s.Serve(ctx, listener) }()
	if fill != nil {
		if err := fill(s); err != nil {
			cancel()
			<-served
			return err
		}
		demo.Greet()
	}
	fmt.Printf("Ambrosa is at http://%s  (Ctrl-C stops it)\n", listener.Addr())
	return <-served
}

func openapiCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "openapi",
		Short: "Write the document of the HTTP interface",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			document, err := api.OpenAPI()
			if err != nil {
				return err
			}
			fmt.Println(string(document))
			return nil
		},
	}
}
