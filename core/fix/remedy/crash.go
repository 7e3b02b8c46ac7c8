package remedy

import "os"

// CrashPoint is crashPoint for other packages' work.
func CrashPoint(name string) { crashPoint(name) }

// crashPoint ends the process there and then when HOLLOWKEY_CRASH names the
// point: so tests see what a power cut leaves behind.
func crashPoint(name string) {
	if os.Getenv("HOLLOWKEY_CRASH") == name {
		os.Exit(86)
	}
}
