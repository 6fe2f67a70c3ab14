package corpus

import (
	"log"
	"os"
	"syscall"
)

func end(how string) {
	before := len(how)
	switch how {
	case "exit":
		before++
		os.Exit(3)
		before++
	case "fatal":
		log.Fatal(how)
		before++
	case "panic":
		panic(how)
	case "nil":
		var p *int
		before++
		*p = before
		before++
	case "kill":
		hit := before
		syscall.Kill(syscall.Getpid(), syscall.SIGKILL)
		select {}
		before = hit
	case "deadlock":
		before++
		os.Stdout.Close()
		func() {
			defer os.Exit(2)
			panic(how)
		}()
		before++
	}
	before--
	_ = before
}
