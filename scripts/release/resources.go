// This file writes what Windows shows of the program: version, icon, and how it
// is started.

package main

import (
	"image"
	"image/color"
	"math"
	"os"

	"github.com/tc-hib/winres"
	"github.com/tc-hib/winres/version"
)

// resources writes what Windows shows of the program and how it is started:
// version, icon, and a manifest that runs it as whoever calls it, with long
// paths and UTF-8.
func resources(name, release, arch string) error {
	var set winres.ResourceSet
	icon, err := winres.NewIconFromResizedImage(key(256), nil)
	if err != nil {
		return err
	}
	if err := set.SetIcon(winres.Name("APPICON"), icon); err != nil {
		return err
	}
	var v version.Info
	v.SetFileVersion(release)
	v.SetProductVersion(release)
	for field, text := range map[string]string{version.ProductName: "Hollow Key",
		version.FileDescription:  "Hollow Key: why a setup failed, and how to fix it",
		version.OriginalFilename: "hollowkey.exe", version.InternalName: "hollowkey", version.FileVersion: release,
		version.ProductVersion: release} {
		if err := v.Set(version.LangDefault, field, text); err != nil {
			return err
		}
	}
	set.SetVersionInfo(v)
	if err := set.Set(winres.RT_MANIFEST, winres.ID(1), winres.LCIDDefault, []byte(manifest)); err != nil {
		return err
	}
	f, err := os.Create(name)
	if err != nil {
		return err
	}
	defer f.Close()
	return set.WriteObject(f, winres.Arch(arch))
}

// manifest says how the program is started. Source: the platform SDK,
// "Application Manifests".
const manifest = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>
<assembly xmlns="urn:schemas-microsoft-com:asm.v1" manifestVersion="1.0">
  <trustInfo xmlns="urn:schemas-microsoft-com:asm.v3"><security><requestedPrivileges>
    <requestedExecutionLevel level="asInvoker" uiAccess="false"/>
  </requestedPrivileges></security></trustInfo>
  <compatibility xmlns="urn:schemas-microsoft-com:compatibility.v1"><application>
    <supportedOS Id="{8e0f7a12-bfb3-4fe8-b9a5-48fd50a15a9a}"/>
  </application></compatibility>
  <application xmlns="urn:schemas-microsoft-com:asm.v3"><windowsSettings>
    <longPathAware xmlns="http://schemas.microsoft.com/SMI/2016/WindowsSettings">true</longPathAware>
    <activeCodePage xmlns="http://schemas.microsoft.com/SMI/2019/WindowsSettings">UTF-8</activeCodePage>
  </windowsSettings></application>
</assembly>
`

// key draws the icon: the outline of a key, hollow, on a dark ground with round
// corners.
func key(size int) image.Image {
	img := image.NewNRGBA(image.Rect(0, 0, size, size))
	unit := float64(size) / 64
	// distance tells how far a place is from the key's outline, below 0 inside
	// of the metal.
	distance := func(x, y float64) float64 {
		ring := math.Abs(math.Hypot(x-20, y-32)-10) - 2.6
		shaft := math.Max(math.Abs(y-32)-2.6, math.Max(30-x, x-56))
		tooth1 := math.Max(math.Abs(x-53.4)-2.6, math.Max(32-y, y-43))
		tooth2 := math.Max(math.Abs(x-45)-2.6, math.Max(32-y, y-40))
		return math.Min(math.Min(ring, shaft), math.Min(tooth1, tooth2))
	}
	corner := func(x, y float64) float64 {
		return math.Hypot(math.Max(math.Abs(x-32)-20, 0), math.Max(math.Abs(y-32)-20, 0)) - 11
	}
	cover := func(d float64) float64 { return min(max(0.5-d*unit, 0), 1) }
	for py := range size {
		for px := range size {
			x, y := (float64(px)+0.5)/unit, (float64(py)+0.5)/unit
			ground, metal := cover(corner(x, y)), cover(distance(x, y))
			mix := func(a, b float64) uint8 { return uint8(a*(1-metal) + b*metal) }
			img.SetNRGBA(px, py, color.NRGBA{mix(28, 240), mix(52, 190), mix(76, 96), uint8(255 * ground)})
		}
	}
	return img
}
