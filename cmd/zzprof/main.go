package main
import ("context";"fmt";"os";"runtime/pprof";"hollowkey/core/why/verdict")
func main(){
 f,_:=os.Create(os.Args[1]); pprof.StartCPUProfile(f)
 for i:=0;i<5;i++{ l,_:=os.Open(os.Args[2]); v,err:=verdict.Reach(context.Background(),verdict.Input{Name:"x",Text:l},verdict.Options{}); if err!=nil{fmt.Println(err)} else if i==0 {fmt.Println(*v.Cause.Class)}; l.Close()}
 pprof.StopCPUProfile(); f.Close()
}
