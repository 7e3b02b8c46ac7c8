// Package checkpoint names the moments at which a crash would leave a change
// half done. The program passes them without a stop; tests end the process
// there to see what a power cut leaves behind.
package checkpoint

// Reached is called at each moment; tests set it before the work begins.
var Reached = func(moment string) {}
