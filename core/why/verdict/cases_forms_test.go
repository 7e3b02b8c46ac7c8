package verdict

// Texts of which each has a form of its own: reports, tables, consoles, traces.
var rareForms = []written{
	{name: "cells behind two signs", class: "permission elevation",
		subject: `C:\Users\Public\Desktop\Corvid.lnk`, action: `shortcut|IPersistFile::Save`, log: `
@@ 07:40:02 | step=begin | Corvid Desk 4.2 setup
@@ 07:40:03 | step=copy | orchard0.dll ok
@@ 07:40:04 | step=copy | fonts1.dll ok
@@ 07:40:05 | step=copy | lumen2.dll ok
@@ 07:40:06 | step=copy | help3.dll ok
@@ 07:40:07 | step=copy | orchard4.dll ok
@@ 07:40:08 | step=copy | atlas5.dll ok
@@ 07:40:09 | step=copy | maps6.dll ok
@@ 07:40:10 | step=copy | maps7.dll ok
@@ 07:40:11 | step=copy | lumen8.dll ok
@@ 07:40:12 | step=copy | lumen9.dll ok
@@ 07:40:13 | step=copy | orchard10.dll ok
@@ 07:40:14 | step=copy | help11.dll ok
@@ 07:40:15 | step=copy | core12.dll ok
@@ 07:40:16 | step=copy | core13.dll ok
@@ 07:40:17 | step=copy | maps14.dll ok
@@ 07:40:18 | step=copy | tables15.dll ok
@@ 07:40:19 | step=copy | tables16.dll ok
@@ 07:40:20 | step=copy | help17.dll ok
@@ 07:40:21 | step=copy | help18.dll ok
@@ 07:40:22 | step=copy | help19.dll ok
@@ 07:40:23 | step=copy | maps20.dll ok
@@ 07:40:24 | step=copy | lumen21.dll ok
@@ 07:40:25 | step=copy | core22.dll ok
@@ 07:40:26 | step=copy | maps23.dll ok
@@ 07:40:27 | step=copy | lumen24.dll ok
@@ 07:40:40 | step=shortcut | C:\Users\Public\Desktop\Corvid.lnk
@@ 07:40:40 | step=shortcut | IPersistFile::Save -> E_ACCESSDENIED
@@ 07:40:41 | step=end | result=failed
`},
	{name: "a list of events in YAML", class: "service", log: `
product: Jackdaw Rosters
version: 3.1.0
events:
- at: 2026-05-11T07:40:00
  what: file copied
  name: tables0.dll
- at: 2026-05-11T07:40:01
  what: file copied
  name: tables1.dll
- at: 2026-05-11T07:40:02
  what: file copied
  name: atlas2.dll
- at: 2026-05-11T07:40:03
  what: file copied
  name: tables3.dll
- at: 2026-05-11T07:40:04
  what: file copied
  name: lumen4.dll
- at: 2026-05-11T07:40:05
  what: file copied
  name: lumen5.dll
- at: 2026-05-11T07:40:06
  what: file copied
  name: tables6.dll
- at: 2026-05-11T07:40:07
  what: file copied
  name: fonts7.dll
- at: 2026-05-11T07:40:08
  what: file copied
  name: fonts8.dll
- at: 2026-05-11T07:40:09
  what: file copied
  name: fonts9.dll
- at: 2026-05-11T07:40:10
  what: file copied
  name: fonts10.dll
- at: 2026-05-11T07:40:11
  what: file copied
  name: orchard11.dll
- at: 2026-05-11T07:40:12
  what: file copied
  name: lumen12.dll
- at: 2026-05-11T07:40:13
  what: file copied
  name: atlas13.dll
- at: 2026-05-11T07:40:14
  what: file copied
  name: fonts14.dll
- at: 2026-05-11T07:41:02
  what: service start
  name: JackdawSync
  error: the service did not start, a service that it depends on does not exist (1075)
- at: 2026-05-11T07:41:03
  what: end
  result: failed
`},
	{name: "cells with semicolons", class: "space", subject: `D:`, action: `Disk`, exit: 112, log: `
Time;Severity;Component;Message
07:40:00;Info;Files;tables0.dll copied
07:40:01;Info;Files;tables1.dll copied
07:40:02;Info;Files;tables2.dll copied
07:40:03;Info;Files;atlas3.dll copied
07:40:04;Info;Files;atlas4.dll copied
07:40:05;Info;Files;fonts5.dll copied
07:40:06;Info;Files;fonts6.dll copied
07:40:07;Info;Files;orchard7.dll copied
07:40:08;Info;Files;help8.dll copied
07:40:09;Info;Files;core9.dll copied
07:40:10;Info;Files;orchard10.dll copied
07:40:11;Info;Files;fonts11.dll copied
07:40:12;Info;Files;maps12.dll copied
07:40:13;Info;Files;orchard13.dll copied
07:40:14;Info;Files;orchard14.dll copied
07:40:15;Info;Files;maps15.dll copied
07:40:16;Info;Files;lumen16.dll copied
07:40:17;Info;Files;orchard17.dll copied
07:40:18;Info;Files;maps18.dll copied
07:40:19;Info;Files;help19.dll copied
07:40:02;Info;Setup;Nutcracker Archive 2.0 installation started
07:41:00;Error;Disk;"Not enough disk space on D: (needs 4,096 MB, has 310 MB)"
07:41:01;Info;Setup;Installation aborted, code 112
`},
	{name: "a report in sections", class: "in-use", subject: `C:\Crossbill\till.exe|till.exe`, action: `Replace files`, exit: 3, log: `
[Report]
Product=Crossbill Tills
Version=7.0
Host=TILL-4

[Step1]
Name=Check
Status=OK

[Step2]
Name=Stop service
Status=OK

[Step3]
Name=Replace files
Status=Failed
Detail=C:\Crossbill\till.exe is in use by till.exe (pid 880)
Code=32

[Result]
Status=Failed
ExitCode=3
`},
	{name: "a page with a table", class: "platform",
		subject: `C:\Program Files\Goldfinch\gf.dll|gf.dll`, action: `register|register C:\Program Files\Goldfinch\gf.dll|LoadLibrary`, log: `
<html><body><h1>Setup log of Goldfinch Office 5</h1><table><tr><th>Time</th><th>Step</th><th>Result</th></tr>
<tr><td>07:40:00</td><td>copy tables0.dll</td><td>ok</td></tr>
<tr><td>07:40:01</td><td>copy lumen1.dll</td><td>ok</td></tr>
<tr><td>07:40:02</td><td>copy atlas2.dll</td><td>ok</td></tr>
<tr><td>07:40:03</td><td>copy tables3.dll</td><td>ok</td></tr>
<tr><td>07:40:04</td><td>copy maps4.dll</td><td>ok</td></tr>
<tr><td>07:40:05</td><td>copy orchard5.dll</td><td>ok</td></tr>
<tr><td>07:40:06</td><td>copy orchard6.dll</td><td>ok</td></tr>
<tr><td>07:40:07</td><td>copy lumen7.dll</td><td>ok</td></tr>
<tr><td>07:40:08</td><td>copy lumen8.dll</td><td>ok</td></tr>
<tr><td>07:40:09</td><td>copy fonts9.dll</td><td>ok</td></tr>
<tr><td>07:40:10</td><td>copy atlas10.dll</td><td>ok</td></tr>
<tr><td>07:40:11</td><td>copy help11.dll</td><td>ok</td></tr>
<tr><td>07:40:12</td><td>copy maps12.dll</td><td>ok</td></tr>
<tr><td>07:40:13</td><td>copy core13.dll</td><td>ok</td></tr>
<tr><td>07:40:14</td><td>copy atlas14.dll</td><td>ok</td></tr>
<tr><td>07:40:15</td><td>copy orchard15.dll</td><td>ok</td></tr>
<tr><td>07:40:16</td><td>copy lumen16.dll</td><td>ok</td></tr>
<tr><td>07:40:17</td><td>copy core17.dll</td><td>ok</td></tr>
<tr><td>07:41:02</td><td>register C:\Program Files\Goldfinch\gf.dll</td><td><b>failed</b>: LoadLibrary: %1 is not a valid Win32 application (193)</td></tr>
<tr><td>07:41:03</td><td>end</td><td>setup failed</td></tr>
</table></body></html>
`},
	{name: "a console of batch commands", class: "service",
		subject: `ChaffinchAgent`, action: `sc start ChaffinchAgent|StartService|sc|sc start`, exit: 1058, log: `
C:\Deploy>set PKG=chaffinch-4.msi

C:\Deploy>msiexec /i chaffinch-4.msi /qn

C:\Deploy>echo 0
0

C:\Deploy>reg add HKLM\SOFTWARE\Chaffinch /v Site /d north /f
The operation completed successfully.

C:\Deploy>sc start ChaffinchAgent
[SC] StartService FAILED 1058:

The service cannot be started, either because it is disabled or because it has no enabled devices associated with it.


C:\Deploy>if 1058 NEQ 0 echo Installation of Chaffinch failed
Installation of Chaffinch failed

C:\Deploy>exit /b 1058
`},
	{name: "records of two lines", class: "network",
		subject: `db7.example:1433|db7.example`, action: `connect|example.siskin.Db|example.siskin.Db connect|Db`, log: `
May 11, 2026 7:40:02 AM example.siskin.Setup main
INFO: Siskin Ledger 2.0 setup starts
May 11, 2026 7:40:03 AM example.siskin.Copy run
FINE: help0.jar
May 11, 2026 7:40:04 AM example.siskin.Copy run
FINE: atlas1.jar
May 11, 2026 7:40:05 AM example.siskin.Copy run
FINE: lumen2.jar
May 11, 2026 7:40:06 AM example.siskin.Copy run
FINE: lumen3.jar
May 11, 2026 7:40:07 AM example.siskin.Copy run
FINE: lumen4.jar
May 11, 2026 7:40:08 AM example.siskin.Copy run
FINE: help5.jar
May 11, 2026 7:40:09 AM example.siskin.Copy run
FINE: fonts6.jar
May 11, 2026 7:40:10 AM example.siskin.Copy run
FINE: lumen7.jar
May 11, 2026 7:40:11 AM example.siskin.Copy run
FINE: fonts8.jar
May 11, 2026 7:40:12 AM example.siskin.Copy run
FINE: atlas9.jar
May 11, 2026 7:40:13 AM example.siskin.Copy run
FINE: atlas10.jar
May 11, 2026 7:40:14 AM example.siskin.Copy run
FINE: tables11.jar
May 11, 2026 7:40:15 AM example.siskin.Copy run
FINE: tables12.jar
May 11, 2026 7:40:16 AM example.siskin.Copy run
FINE: atlas13.jar
May 11, 2026 7:40:17 AM example.siskin.Copy run
FINE: orchard14.jar
May 11, 2026 7:40:40 AM example.siskin.Db connect
SEVERE: java.sql.SQLException: Connection refused: connect to db7.example:1433
May 11, 2026 7:40:41 AM example.siskin.Setup main
SEVERE: setup failed
`},
	{name: "a Python trace at the end", class: "path leftover",
		subject: `C:\Program Files\Hawfinch`, action: `makedirs|main|os.makedirs`, log: `
Installing hawfinch-tools 1.8 ...
  unpacking atlas0
  unpacking orchard1
  unpacking fonts2
  unpacking orchard3
  unpacking maps4
  unpacking fonts5
  unpacking lumen6
  unpacking maps7
  unpacking lumen8
  unpacking tables9
  unpacking tables10
  unpacking tables11
Traceback (most recent call last):
  File "C:\Hawfinch\install.py", line 88, in <module>
    main()
  File "C:\Hawfinch\install.py", line 61, in main
    os.makedirs(target)
  File "<frozen os>", line 225, in makedirs
FileExistsError: [WinError 183] Cannot create a file when that file already exists: 'C:\\Program Files\\Hawfinch'
`},
	{name: "a Go panic at the end", class: "in-use",
		subject: `C:\ProgramData\brambling\state.db`, action: `Apply|main.(*Updater).Apply|open`, exit: 2, log: `
2026/05/11 07:40:02 brambling-updater v2.3.1: update to 2.4.0
2026/05/11 07:40:03 chunk 0/24 done
2026/05/11 07:40:04 chunk 1/24 done
2026/05/11 07:40:05 chunk 2/24 done
2026/05/11 07:40:06 chunk 3/24 done
2026/05/11 07:40:07 chunk 4/24 done
2026/05/11 07:40:08 chunk 5/24 done
2026/05/11 07:40:09 chunk 6/24 done
2026/05/11 07:40:10 chunk 7/24 done
2026/05/11 07:40:11 chunk 8/24 done
2026/05/11 07:40:12 chunk 9/24 done
2026/05/11 07:40:13 chunk 10/24 done
2026/05/11 07:40:14 chunk 11/24 done
2026/05/11 07:40:15 chunk 12/24 done
2026/05/11 07:40:16 chunk 13/24 done
2026/05/11 07:40:17 chunk 14/24 done
2026/05/11 07:40:18 chunk 15/24 done
2026/05/11 07:40:19 chunk 16/24 done
2026/05/11 07:40:20 chunk 17/24 done
2026/05/11 07:40:21 chunk 18/24 done
2026/05/11 07:40:22 chunk 19/24 done
2026/05/11 07:40:23 chunk 20/24 done
2026/05/11 07:40:24 chunk 21/24 done
2026/05/11 07:40:25 chunk 22/24 done
2026/05/11 07:40:26 chunk 23/24 done
panic: open C:\ProgramData\brambling\state.db: The process cannot access the file because it is being used by another process.

goroutine 1 [running]:
main.(*Updater).Apply(0xc0000b2000)
	C:/src/updater/apply.go:118 +0x1a5
main.main()
	C:/src/updater/main.go:40 +0x2f
exit status 2
`},
	{name: "causes below each other", class: "permission elevation", log: `
twite-setup 0.9.2
   preparing
   unpacking 88 files
   done in 3.1 s
   writing configuration
Error: could not write configuration

Caused by:
    0: failed to create C:\ProgramData\Twite\conf
    1: Access is denied. (os error 5)
`},
	{name: "an exception that nobody caught", class: "prerequisite custom-action",
		subject: `redpoll_native.dll`, action: `Registering|Redpoll.Setup.Register|Register|Redpoll.Native..cctor`, log: `
Redpoll Sync 6.2 Setup
Copying files
Registering

Unhandled Exception: System.TypeInitializationException: The type initializer for 'Redpoll.Native' threw an exception. ---> System.DllNotFoundException: Unable to load DLL 'redpoll_native.dll': The specified module could not be found. (Exception from HRESULT: 0x8007007E)
   at Redpoll.Native..cctor()
   --- End of inner exception stack trace ---
   at Redpoll.Setup.Register()
   at Redpoll.Setup.Main(String[] args)
`},
	{name: "a table with its fields named", class: "permission elevation", subject: `HKLM\SOFTWARE\Linnet`, action: `regkey`, exit: 5, log: `
#Software: Linnet deployment
#Date: 2026-05-11 07:40:02
#Fields: date time step target status code
2026-05-11 07:40:00 copy tables0.dll ok 0
2026-05-11 07:40:01 copy lumen1.dll ok 0
2026-05-11 07:40:02 copy fonts2.dll ok 0
2026-05-11 07:40:03 copy orchard3.dll ok 0
2026-05-11 07:40:04 copy maps4.dll ok 0
2026-05-11 07:40:05 copy orchard5.dll ok 0
2026-05-11 07:40:06 copy lumen6.dll ok 0
2026-05-11 07:40:07 copy core7.dll ok 0
2026-05-11 07:40:08 copy core8.dll ok 0
2026-05-11 07:40:09 copy atlas9.dll ok 0
2026-05-11 07:40:10 copy orchard10.dll ok 0
2026-05-11 07:40:11 copy tables11.dll ok 0
2026-05-11 07:40:12 copy fonts12.dll ok 0
2026-05-11 07:40:13 copy maps13.dll ok 0
2026-05-11 07:40:14 copy lumen14.dll ok 0
2026-05-11 07:40:15 copy fonts15.dll ok 0
2026-05-11 07:40:16 copy tables16.dll ok 0
2026-05-11 07:40:17 copy help17.dll ok 0
2026-05-11 07:40:18 copy fonts18.dll ok 0
2026-05-11 07:40:19 copy orchard19.dll ok 0
2026-05-11 07:41:00 regkey HKLM\SOFTWARE\Linnet denied 5
2026-05-11 07:41:01 deployment Linnet failed 5
`},
	{name: "syslog with versions", class: "corrupt policy security-software", subject: `serin.sys`, log: `
<134>1 2026-05-11T07:40:02.100Z DOCK-7 serin-setup 4120 ID1 - Serin Charts 3.3 installation begins
<135>1 2026-05-11T07:40:03.200Z DOCK-7 serin-setup 4120 ID2 - copied lumen0.dll
<135>1 2026-05-11T07:40:04.200Z DOCK-7 serin-setup 4120 ID2 - copied atlas1.dll
<135>1 2026-05-11T07:40:05.200Z DOCK-7 serin-setup 4120 ID2 - copied fonts2.dll
<135>1 2026-05-11T07:40:06.200Z DOCK-7 serin-setup 4120 ID2 - copied atlas3.dll
<135>1 2026-05-11T07:40:07.200Z DOCK-7 serin-setup 4120 ID2 - copied maps4.dll
<135>1 2026-05-11T07:40:08.200Z DOCK-7 serin-setup 4120 ID2 - copied help5.dll
<135>1 2026-05-11T07:40:09.200Z DOCK-7 serin-setup 4120 ID2 - copied fonts6.dll
<135>1 2026-05-11T07:40:10.200Z DOCK-7 serin-setup 4120 ID2 - copied maps7.dll
<135>1 2026-05-11T07:40:11.200Z DOCK-7 serin-setup 4120 ID2 - copied core8.dll
<135>1 2026-05-11T07:40:12.200Z DOCK-7 serin-setup 4120 ID2 - copied lumen9.dll
<135>1 2026-05-11T07:40:13.200Z DOCK-7 serin-setup 4120 ID2 - copied lumen10.dll
<135>1 2026-05-11T07:40:14.200Z DOCK-7 serin-setup 4120 ID2 - copied core11.dll
<135>1 2026-05-11T07:40:15.200Z DOCK-7 serin-setup 4120 ID2 - copied tables12.dll
<135>1 2026-05-11T07:40:16.200Z DOCK-7 serin-setup 4120 ID2 - copied atlas13.dll
<135>1 2026-05-11T07:40:17.200Z DOCK-7 serin-setup 4120 ID2 - copied lumen14.dll
<135>1 2026-05-11T07:40:18.200Z DOCK-7 serin-setup 4120 ID2 - copied help15.dll
<135>1 2026-05-11T07:40:19.200Z DOCK-7 serin-setup 4120 ID2 - copied atlas16.dll
<135>1 2026-05-11T07:40:20.200Z DOCK-7 serin-setup 4120 ID2 - copied orchard17.dll
<135>1 2026-05-11T07:40:21.200Z DOCK-7 serin-setup 4120 ID2 - copied fonts18.dll
<135>1 2026-05-11T07:40:22.200Z DOCK-7 serin-setup 4120 ID2 - copied fonts19.dll
<131>1 2026-05-11T07:40:50.000Z DOCK-7 serin-setup 4120 ID7 - signature of driver serin.sys: certificate revoked (0x800B010C)
<131>1 2026-05-11T07:40:51.000Z DOCK-7 serin-setup 4120 ID9 - installation failed
`},
	{name: "seconds since 1970", class: "corrupt", subject: `data.bin`, exit: 11, log: `
1778485202.113 [4120] Bullfinch POS 9.9 setup
1778485200.000 [4120] extract lumen0.bin
1778485201.001 [4120] extract atlas1.bin
1778485202.002 [4120] extract atlas2.bin
1778485203.003 [4120] extract tables3.bin
1778485204.004 [4120] extract tables4.bin
1778485205.005 [4120] extract maps5.bin
1778485206.006 [4120] extract lumen6.bin
1778485207.007 [4120] extract help7.bin
1778485208.008 [4120] extract fonts8.bin
1778485209.009 [4120] extract core9.bin
1778485200.010 [4120] extract atlas10.bin
1778485201.011 [4120] extract orchard11.bin
1778485202.012 [4120] extract maps12.bin
1778485203.013 [4120] extract maps13.bin
1778485204.014 [4120] extract maps14.bin
1778485205.015 [4120] extract fonts15.bin
1778485206.016 [4120] extract atlas16.bin
1778485207.017 [4120] extract core17.bin
1778485208.018 [4120] extract lumen18.bin
1778485209.019 [4120] extract core19.bin
1778485230.001 [4120] extract data.bin: crc 7f31aa02 expected 11bc90de
1778485230.100 [4120] archive is damaged
1778485230.200 [4120] setup ends with 11
`},
	{name: "headings and what stands below them", class: "space custom-action database",
		subject: `wax|visits|PRIMARY`, action: `migrating database`, log: `
=== Waxwing Clinic 12 upgrade ===
>> checking version
   found 11.2
>> stopping services
   WaxwingCore stopped
>> replacing program files
   help0.dll
   tables1.dll
   tables2.dll
   fonts3.dll
   core4.dll
   help5.dll
   maps6.dll
   tables7.dll
   atlas8.dll
   help9.dll
   orchard10.dll
   lumen11.dll
>> migrating database
   ALTER TABLE visits ...
   Msg 1105, Level 17: Could not allocate space for object 'visits' in database 'wax' because the 'PRIMARY' filegroup is full.
!! upgrade failed in: migrating database
>> restoring program files
`},
	{name: "keys and values in another order", class: "prerequisite registry", exit: 9, log: `
level=info ts=2026-05-11T07:40:02Z caller=main.go:40 msg="dunnock agent install" version=1.22
level=debug ts=2026-05-11T07:40:03Z caller=fs.go:9 msg=copied file=help0
level=debug ts=2026-05-11T07:40:04Z caller=fs.go:9 msg=copied file=atlas1
level=debug ts=2026-05-11T07:40:05Z caller=fs.go:9 msg=copied file=lumen2
level=debug ts=2026-05-11T07:40:06Z caller=fs.go:9 msg=copied file=core3
level=debug ts=2026-05-11T07:40:07Z caller=fs.go:9 msg=copied file=tables4
level=debug ts=2026-05-11T07:40:08Z caller=fs.go:9 msg=copied file=orchard5
level=debug ts=2026-05-11T07:40:09Z caller=fs.go:9 msg=copied file=fonts6
level=debug ts=2026-05-11T07:40:10Z caller=fs.go:9 msg=copied file=atlas7
level=debug ts=2026-05-11T07:40:11Z caller=fs.go:9 msg=copied file=orchard8
level=debug ts=2026-05-11T07:40:12Z caller=fs.go:9 msg=copied file=help9
level=debug ts=2026-05-11T07:40:13Z caller=fs.go:9 msg=copied file=help10
level=debug ts=2026-05-11T07:40:14Z caller=fs.go:9 msg=copied file=orchard11
level=debug ts=2026-05-11T07:40:15Z caller=fs.go:9 msg=copied file=atlas12
level=debug ts=2026-05-11T07:40:16Z caller=fs.go:9 msg=copied file=tables13
level=debug ts=2026-05-11T07:40:17Z caller=fs.go:9 msg=copied file=maps14
level=warn ts=2026-05-11T07:40:40Z caller=reg.go:77 msg="registry key missing" key="HKLM\\SOFTWARE\\Dunnock\\Core"
level=error ts=2026-05-11T07:40:41Z caller=install.go:120 msg="core not installed, install dunnock-core first"
level=info ts=2026-05-11T07:40:41Z caller=main.go:66 msg=exit code=9
`},
}
