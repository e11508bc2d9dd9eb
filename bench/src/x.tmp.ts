import { buildBodies, makeWorkshop } from "@rubble/core/bodies";
import { addArray, addObject, edit, emptyShot, setBody, setFracture, setSettings, type Command } from "@rubble/core/shot";
import { makeScene, rapierEngine, simulate } from "@rubble/core/simulation";
import { loadSolids } from "@rubble/core/solid";
import { NO_ASSETS } from "./types";
const shape=(id:string,kind:string,p:Record<string,number>,t:[number,number,number]):Command=>addObject({id,name:id,source:{kind:"shape",shape:kind,parameters:p},translation:t});
const cmds: Command[]=[shape("ground","ground",{},[0,0,0]),setBody(["ground"],{kind:"passive"}),
 shape("s1","ball",{radius:0.06,detail:2},[0,0,0]),shape("s2","box",{width:0.1,height:0.07,depth:0.12},[0,0,0]),shape("s3","cylinder",{radius:0.05,height:0.08,segments:12},[0,0,0]),
 addArray({id:"a",name:"Cobbles",source:{kind:"array",sources:["s1","s2","s3"],layout:"grid",options:{columns:40,rows:40,layers:19,stepX:0.17,stepY:0.17,stepZ:0.17,turn:1,smallest:0.7,largest:1.1,seed:3}},translation:[-3.4,0.15,-3.4]}),
 setBody(["a"],{kind:"active",collider:"hull"}),
 setSettings({lastFrame:72})];
const shot=cmds.reduce((s,c)=>edit(s,c).shot,emptyShot("x"));
const w=makeWorkshop(await loadSolids(),NO_ASSETS);
const t=performance.now();
const built=await buildBodies(w,shot);const scene=await makeScene(w,shot,built.bodies);
console.log(JSON.stringify(built.problems).slice(0,300));
console.log("bodies",scene.shown,"built s",(performance.now()-t)/1000);
const t1=performance.now();let awake=0;
await simulate(scene,rapierEngine,{onChunk:(c)=>{awake=c.awake.at(-1)!;console.log(c.firstFrame+c.frames-1,((performance.now()-t1)/1000).toFixed(0)+" s","awake",awake,"MB",(process.memoryUsage().rss/1e6).toFixed(0))}});
console.log("done",(performance.now()-t1)/1000,"peak MB",process.resourceUsage().maxRSS/1024);
