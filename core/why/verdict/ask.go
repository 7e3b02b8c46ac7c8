// This file lets a machine answer what a log leaves open. A look at the machine
// weighs among the other reasons; it does not replace them.

package verdict

import (
	"cmp"
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/step"
	"hollowkey/core/why/evidence"
	"hollowkey/core/why/signs"
)

// What a cause is about is asked of the machine, whatever dialect told it: what
// was asked is what the log complains of, so a yes is worth more than that of a
// check that a sign merely suggests, and a no speaks against that one cause
// alone.

const (
	exactFactor = 0.2  // what a yes leaves of the doubt in the cause that was asked about
	movedFactor = 0.3  // and in another cause that the same lines speak of
	leastMoved  = 0.45 // confidence from which a yes moves a cause, lest a guess of 10 % stay one after the machine agreed
	saysLittle  = 0.6  // a log that is less sure does not say why
	nearCause   = 1.2  // nats that a look weighs among the hypotheses, for and against
)

// ask lets the machine say what is so of the cause that the log tells.
func (j *judge) ask() {
	v := j.v
	v.Cause.Subject = plainSubject(v.Cause.Subject)
	if v.Cause.Class != nil && len(j.anchor) > 0 && !v.Outcome.Worked() {
		v.Cause.Subject = byItsWord(v.Cause.Subject, *v.Cause.Class, firstLine(j.anchor[0].Text))
	}
	if j.opt.Machine == nil || v.Cause.Class == nil || v.Outcome.Worked() || v.Outcome == story.Cancelled {
		return
	}
	own := *v.Cause.Class
	if s := v.Cause.Subject; s != nil && own == "service" && s.Kind == "program" && !strings.Contains(s.Name, ".") {
		s.Kind = "service"
	}
	if !j.foreign() && v.Shown() { // what a sign asked for decides
		return
	}
	asked, no := false, signs.Finding{}
	for _, q := range j.questions(own) {
		f, caps := j.opt.Machine.Check(q.check, q.with)
		told := slices.ContainsFunc(v.Machine, func(o signs.Finding) bool { return o.Answer == f.Answer && o.Text == f.Text })
		if told && !j.foreign() { // a sign asked it already, and its score has it
			if f.Answer == "yes" {
				return
			}
			continue
		}
		if q.yes && f.Answer != "yes" {
			continue
		}
		class := q.class
		if f.Class != "" && f.Answer == "yes" {
			class = f.Class
		}
		switch {
		case f.Answer == "yes" && class == own:
			v.Cause.Confidence += (1 - v.Cause.Confidence) * (1 - exactFactor)
			v.weighed(own, nearCause*2, f)
		case f.Answer == "yes":
			v.moveTo(class, f, j.anchored())
		case f.Answer == "no" && class == own:
			no = f
			v.weighed(own, -nearCause, f)
		case f.Answer == "unknown" && class != own, f.Answer == "no":
			continue // nobody asked
		}
		if !told {
			v.Machine = append(v.Machine, f)
		}
		if c := v.Cause.Subject; c != nil && c.Kind == "service" && caps["service"] != "" { // told by its title
			c.Name = caps["service"]
		}
		for name, c := range caps {
			if j.caps[name] == "" || name == "lacking" || name == "holder" {
				j.caps[name] = c
			}
		}
		if asked = true; f.Answer == "yes" {
			v.byMachine(f)
			return
		}
	}
	j.probe()
	if asked && no.Check != "" && !v.Shown() {
		v.Cause.Confidence *= struckFactor
		// they would fix what is not wrong
		v.Remedies = slices.DeleteFunc(v.Remedies, func(r step.Remedy) bool { return len(r.Steps) > 0 && r.From == "" })
		if !slices.Contains(v.Remarks, notNow) {
			v.Remarks = append(v.Remarks, notNow)
		}
	}
}

// notNow is said when the machine was asked for the very thing that a log
// complains of.
const notNow = "the machine does not show it now; if it was fixed since, run the setup again"

// Shown says whether a look at the machine bears the cause out.
func (v *Verdict) Shown() bool {
	return slices.ContainsFunc(v.Machine, func(f signs.Finding) bool { return f.Answer == "yes" })
}

// Looked keeps what a look at the machine brought.
func (v *Verdict) Looked(f signs.Finding) {
	if !slices.ContainsFunc(v.Machine, f.Same) {
		v.Machine = append(v.Machine, f)
	}
}

// ShownBy settles on what a look at the machine shows about the action that
// failed: it bears the cause out, or is the cause where the log did not say
// why.
func (v *Verdict) ShownBy(f signs.Finding, about *signs.Subject) {
	v.Looked(f)
	class := cmp.Or(f.Class, "unknown")
	if v.Cause.Class != nil && *v.Cause.Class == class {
		if v.Cause.Confidence < saysLittle { // and so do its remedies
			v.Remedies = slices.DeleteFunc(v.Remedies, func(r step.Remedy) bool { return len(r.Steps) == 0 })
			v.Cause.Summary = "On this machine " + f.Text
		} else {
			v.Cause.Summary = strings.TrimRight(v.Cause.Summary, ".") + "; on this machine " + f.Text
		}
		v.Cause.Confidence = 1 - (1-max(v.Cause.Confidence, leastMoved))*exactFactor
		v.weighed(class, nearCause*2, f)
	} else {
		v.moveTo(class, f, "")
		v.Cause.Confidence = 1 - (1-v.Cause.Confidence)*exactFactor/movedFactor
	}
	if about != nil {
		v.Cause.Subject = about
	}
	v.byMachine(f)
	v.Cause.Confidence = round(min(v.Cause.Confidence, surest))
}

// NotRead settles on a package that cannot be read: what the engine's number
// alone may mean is no question any more.
func (v *Verdict) NotRead(f signs.Finding) {
	v.unread = true
	v.Remedies = nil
	v.Remarks = slices.DeleteFunc(v.Remarks, func(r string) bool { return r == onlyALog })
	v.Cause.Confidence = 0 // its words say less than the machine
	v.ShownBy(f, &signs.Subject{Kind: "package", Name: v.Package})
}

// weighed puts a look at the machine among what speaks for a hypothesis, or
// against it.
func (v *Verdict) weighed(class string, w float64, f signs.Finding) {
	p := evidence.Point{Weight: w, What: "on the machine: " + f.Text}
	for i := range v.Hypotheses {
		if v.Hypotheses[i].Class == class {
			v.Hypotheses[i].Points = append(v.Hypotheses[i].Points, p)
			v.Hypotheses[i].Total += w
			return
		}
	}
	if w > 0 {
		v.Hypotheses = append([]evidence.Hypothesis{{Class: class, Total: w, Points: []evidence.Point{p}}}, v.Hypotheses...)
	}
}

// moveTo settles on another cause than the words told first: the machine shows
// it for the very thing that they speak of.
func (v *Verdict) moveTo(class string, f signs.Finding, said string) {
	c := &v.Cause
	v.weighed(class, nearCause*2, f)
	if c.Class != nil && *c.Class != "unknown" {
		v.Others = append([]Other{{Class: *c.Class, Title: c.Title, Confidence: round(c.Confidence)}}, v.Others...)
	}
	c.Confidence = 1 - (1-max(c.Confidence, leastMoved))*movedFactor
	c.Class, c.Title = &class, titles[class]
	c.Summary = "On this machine " + f.Text
	if line, _, _ := strings.Cut(said, "\n"); line != "" {
		c.Summary += "; the log says: " + story.Clip(strings.TrimSpace(line), 200)
	}
	v.Sign, v.Remedies, v.vague = "", nil, false
	if at := slices.IndexFunc(v.Hypotheses, func(h evidence.Hypothesis) bool { return h.Class == class }); at > 0 {
		h := v.Hypotheses[at]
		v.Hypotheses = append([]evidence.Hypothesis{h}, slices.Delete(v.Hypotheses, at, at+1)...)
	}
}

// byMachine puts the steps of a finding first: they were made for what was
// looked at, and for all that lack it.
func (v *Verdict) byMachine(f signs.Finding) {
	advice := step.Remedy{Undo: "nothing is changed by this advice"}
	class := *v.Cause.Class
	switch {
	case f.Class == "elevation":
		advice.Class, advice.Title = "elevation", general["elevation"].Title
		v.Remedies = append([]step.Remedy{advice}, slices.DeleteFunc(v.Remedies, func(r step.Remedy) bool { return r.Class == "permission" })...)
	case len(f.Steps) > 0 && !slices.ContainsFunc(v.Remedies, func(r step.Remedy) bool { return len(r.Steps) > 0 }):
		r := step.Remedy{Class: general[class].Class, Title: f.Mend, Undo: "hollowkey undo", Steps: f.Steps, Target: step.TargetOf(f.Steps[0])}
		if class == "policy" || f.Check == "lock-left" || onlyAsked(f.Steps) { // somebody may have a reason for it: that is asked first
			r.OnlyNamed = true
			if len(v.Remedies) == 0 {
				advice.Class, advice.Title = general[class].Class, general[class].Title
				v.Remedies = append(v.Remedies, advice)
			}
			v.Remedies = append(v.Remedies, r)
			return
		}
		v.Remedies = append([]step.Remedy{r}, v.Remedies...)
	case len(f.Steps) == 0 && f.Mend != "" && len(v.Remedies) == 0:
		advice.Class, advice.Title = general[class].Class, f.Mend
		v.Remedies = append(v.Remedies, advice)
	}
}

// onlyAsked says whether one of the steps is taken only by who asks for it:
// what is not saved is lost with a program, a service may need what it depends
// on, and its program may only be out of sight.
func onlyAsked(steps []step.Model) bool {
	return slices.ContainsFunc(steps, func(m step.Model) bool {
		return m["end-process"] != nil || m["dependency"] != nil || m["remove-service"] != nil
	})
}

// byPolicy says whether the engine's number, or its own words, tell of a policy
// of the engine.
func (j *judge) byPolicy() bool {
	if m := j.v.Cause.Message; m != nil {
		return byPolicy[*m]
	}
	code, told := evidence.CodeOfText(strings.ToLower(j.anchored()), "policy")
	return told && byPolicy[code]
}

var (
	// bySystem tells that the OS's own account runs the setup.
	bySystem = lazy.MustCompile(`(?i)\b(?:running|runs|run|started|executing|executed) (?:as|under|in the context of) ["']?(?:the )?(?:(?:nt[ -]?authority|nt-autorität|autorite nt)\\)?(?:local ?)?system\b|` +
		`\b(?:user|account|identity|context|runs as|konto|benutzer|compte|utilisateur|cuenta|usuario|utente|uživatel)(?: name)? ?[:=] ?["']?(?:[\w. -]{2,20}\\)?(?:local ?)?system["']?(?:$|[\s]*[,;)\]]|[\s]+\()|\b(?:nt authority|nt-autorität)\\system\b`)
	// lockFile is a file by which a program tells others that it is at work.
	lockFile = lazy.MustCompile(`(?i)(?:\.(?:lock|lck|pid)|[\\/]lock(?:file)?|[\\/]\.lock)$`)
	// processOf is the process that a line names by its number.
	processOf = lazy.MustCompile(`(?i)\b(?:pid|process|prozess|processus|proceso|processo|proces|процесс)\b[ :=#(]{0,3}(\d{1,7})\b`)
	// readOnly tells that a file has the attribute which forbids writing to
	// anybody.
	readOnly = lazy.MustCompile(`(?i)\bread[- ]?only\b|\battr(?:ibutes?)?\b[ :=]{1,3}0x(?:21|01|1|23|27)\b|schreibgeschützt|lecture seule|solo lectura|sola lettura|somente leitura|alleen-lezen|tylko do odczytu|jen pro čtení|skrivskydd|salt okunur|только для чтения|読み取り専用|읽기 전용|只读|唯讀`)
	// pathNotFound are the OS's words and numbers for a path of which a part is
	// not there.
	pathNotFound = lazy.MustCompile(`(?i)\bpath (?:was )?not found|no usable temp|folder above it is missing|\b(?:error|code|WinError|->|=|:)[ (]{0,2}3\b|\((?:error )?3\)|\breturned 3\b|cannot find the path|part of the path|\bENOENT\b|DirectoryNotFound|no such (?:file or )?directory|pfad nicht finden|pfad .{0,60}nicht gefunden|chemin d['’]accès spécifié|ruta (?:de acceso )?especificad|percorso specificat|caminho especificado|opgegeven pad|określonej ścieżki|uvedenou cestu|hitta (?:en del av )?sökvägen|belirtilen yol|указанный путь|指定されたパス|지정된 경로|指定的路径|指定的路徑`)
)

var (
	// ofTime are words for what fails under a wrong clock.
	ofTime = lazy.MustCompile(`(?i)certificat|expired|not yet valid|clock|skew|time ?stamp|token`)
	// aField is a line with the name of a value and the value.
	aField = lazy.MustCompile(`^\s*"?[\w.@-]{1,40}"?\s?[=:]\s?\S`)
	// ofTemporary speaks of the temporary folder without its name.
	ofTemporary = lazy.MustCompile(`(?i)\b(?:temporary|temp) (?:folder|directory|path)\b|\btempor(?:ä|a)r\w* (?:ordner|verzeichnis)|\bdossier temporaire\b|\bcarpeta temporal\b|\bcartella temporanea\b|\bpasta temporária\b`)
	// isDrive is a drive by its letter.
	isDrive = lazy.MustCompile(`^[A-Za-z]:\\?$`)
	// alreadyThere are the OS's words and numbers for something of the same
	// name that is there.
	alreadyThere = lazy.MustCompile(`(?i)already exists|FileAlreadyExists|\bEEXIST\b|FileExistsError|WinError 183|\b(?:error|code)[ :=]{1,2}183\b|0x800700b7|existiert bereits|déjà existant|bereits vorhanden|existe déjà|ya existe|esiste già|já existe|bestaat al|już istnieje|již existuje|finns redan|zaten var|уже существует|既に存在|已存在|이미 있`)
	// hasExtension is a path that ends as those of files do.
	hasExtension = lazy.MustCompile(`\.[A-Za-z][\w-]{0,9}$`)
	// isPath is a path on a drive.
	isPath = lazy.MustCompile(`^[A-Za-z]:\\`)
	// notFolder tells that a folder was wanted and something else stands there.
	notFolder = lazy.MustCompile(`(?i)\bto be a (?:directory|folder)\b|\bis an? (?:ordinary|regular|plain|normal) file\b|\bis a file(?:,| but| and no| where)|\ba (?:folder|directory) (?:is|was) (?:needed|expected|wanted)\b|\bnot a (?:directory|folder)(?:$|\n|[^\pL ]| (?:and|but|or|at|on|in)\b)|\bENOTDIR\b|NotADirectory|directory name is invalid|WinError 267|\b(?:error|code) 267\b|ERROR_DIRECTORY\b|Verzeichnisname ist ungültig|nom de répertoire (?:est )?non valide|nombre del directorio no es válido`)
	// isFolder tells that a file was wanted and a folder stands there.
	isFolder = lazy.MustCompile(`(?i)\bis a (?:directory|folder)\b|\bEISDIR\b|IsADirectory|operation on a directory|ist ein (?:Ordner|Verzeichnis)\b|est un (?:dossier|répertoire)\b|es (?:una carpeta|un directorio)\b`)
	// makingFolder are words and calls for making a folder.
	makingFolder = lazy.MustCompile(`(?i)CreateDirectory|mkdir|MakeDir|(?:create|make) (?:the |a )?(?:folder|directory)|create (?:the )?(?:folder|directory)|(?:folder|directory) .{0,120}(?:could not|cannot|can't|not) be created|creating (?:the )?(?:folder|directory)|` +
		`(?:ordner|verzeichnis).{0,120}(?:anlegen|angelegt|erstell)|(?:dossier|répertoire).{0,120}(?:créé|créer)|(?:créer|création).{0,40}(?:dossier|répertoire)|(?:crear|creación).{0,40}(?:carpeta|directorio)|(?:carpeta|directorio).{0,120}crea|` +
		`(?:crea|creazione).{0,40}(?:cartella|directory)|cartella.{0,120}crea|(?:pasta|diretório|diretoria).{0,120}cria|criar.{0,40}(?:pasta|diret)|map .{0,120}(?:maken|gemaakt)|utworzy.{0,40}(?:folder|katalog)|(?:folder|katalog).{0,120}utworz|` +
		`složk.{0,120}vytvo|vytvo.{0,40}složk|mapp.{0,120}skapa|skapa.{0,40}mapp|klasör.{0,120}oluştur|(?:папк|каталог).{0,120}созда|созда.{0,40}(?:папк|каталог)|フォルダー?.{0,120}作成|(?:文件夹|資料夾|目录|目錄).{0,120}(?:创建|建立)|(?:创建|建立).{0,40}(?:文件夹|資料夾|目录|目錄)|폴더.{0,120}만들`)
	// makingAny are those for making or writing anything.
	makingAny = lazy.MustCompile(`(?i)creat|\bmak(?:e|ing|edirs?)\b|mkdirs|writ|cop(?:y|ie)|extract|unpack|mov(?:e|ing)|renam|replac|mkdir|MakeDir|open .* for writ|sav(?:e|ing)|denied|` +
		`anleg|erstell|schreib|kopier|entpack|cré[eé]|écri|copi|extra[ií]|escrib|scriv|cria|escrev|schrijv|maken|utworz|zapis|kopiow|vytvo|zapsat|kopír|skapa|skriv|oluştur|yaz[ıma]|созда|запис|копир|作成|書き|コピー|创建|建立|写入|寫入|复制|複製|만들|쓰기|복사`)
)
