//go:build js && wasm

// Command core is the job's rules for the browser: the desk behind one function of the worker it runs in.
package main

import (
	"syscall/js"

	"geminate/desk"
)

func main() {
	d := desk.New()
	js.Global().Set("geminateCore", js.FuncOf(func(_ js.Value, args []js.Value) any {
		return string(d.Call(args[0].String(), []byte(args[1].String())))
	}))
	js.Global().Call("geminateReady")
	select {}
}
