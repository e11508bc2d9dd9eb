import { SHORTCUTS } from "~/workbench/shortcuts";

export interface GuidePageText {
	readonly id: string;
	readonly title: string;
	/** Paragraphs, and lists of terms with their meaning. */
	readonly body: readonly (string | readonly (readonly [string, string])[])[];
}

/** One short page for each stage, then units, files and keys. */
export const GUIDE: readonly GuidePageText[] = [
	{
		id: "shape",
		title: "1 Shape",
		body: [
			"Add a shape or letters, or open a mesh file. Everything has its real size in metres, because weight and the look of a fall follow from it: a wall of three metres falls more slowly than a model of it.",
			"A mesh must be closed to have an inside. The bench says what is wrong with an opened one (holes, faces that look the wrong way, shells that overlap, a surface that passes through itself) and offers repairs; the file as it came is kept, and “As it came” takes all repairs back.",
			[
				["Weld and fill", "Joins corners that are nearly one and closes holes. Keeps the surface as it is."],
				["Thickness", "Makes a solid of an open surface, such as a pane that is a single sheet. The thickness can be changed afterwards."],
				["Re-mesh", "Lays a new surface around it. Mends anything, rounds off details smaller than the voxel."],
				[
					"Set down",
					"Moves the object so that its lowest point is at height 0. What stands there goes on standing when its sizes are changed.",
				],
				[
					"Copies",
					"What is picked, laid out as a grid, a line, a line that hangs, a ring, over a surface or in a volume. Each copy is a body of its own, can be turned and sized at random, and is named Ball copies/00042. The source is hidden and stays editable. Steps go by the size of the largest until you set them.",
				],
				[
					"How many fill this?",
					"Copies in a volume say what the vessel holds and how many would lie in it when they are poured: a loose heap of balls takes up about 60 % of the room, less in a narrow vessel. “Pour in” makes so many, each lying on those below it by its own size; what finds no place stands above the opening and falls in. A vessel that takes no part becomes passive.",
				],
				["Repeat move", "Duplicate (Ctrl D), place the copy, repeat: chains, stairs, spirals."],
				[
					"Several at once",
					"Handles carry all that is picked, and turn it about what was picked last; along the world's axes or, with O, its own. Numbers that differ show as a range: what is typed goes to all, the rest stays each one's own.",
				],
				[
					"Group, merge, split",
					"Hold things together, make one solid of several, or an object of each connected part. Originals are hidden, never lost. A group stands for all that it holds: it is weighed, bonded and duplicated with it, its connectors and links included.",
				],
				[
					"Camera, beacon",
					"A camera is put where the view looks from and aims at a beacon or any object; its place and its field of view can be keyed. Helpers are never in files or pictures.",
				],
				[
					"Region",
					"A box, a ball, or the form of any closed object, in the room. Rules ask for it by its name: “piece, in Region”; bodies wake by it; colliders can be cropped to it.",
				],
				[
					"Lights, scenery",
					"The first light takes the place of the view's own sun. With nothing picked the bench shows the backdrop and the light of the sky.",
				],
				[
					"Material",
					"Colour, shine, density, friction and bounce of all that is made of it; a picture on its outside faces, in metres: dropped onto the thing in the view, or opened here.",
				],
				[
					"Bend, keyed numbers",
					"An object can be bent to an arc. The diamond beside a number keys it at the frame on show: shapes grow and bend over time, and push what they meet while they are animated or passive.",
				],
				[
					"Several numbers",
					"Typed or pasted together into a field they fill it and those after it: 0 1.2 -3 a place, 2.4 1.6 0.2 the sizes of a box, 5 4 5 the columns, layers and rows of a grid.",
				],
				["Pivot, size real", "The pivot goes to the middle or the centre of mass; a size factor goes into the mesh. Nothing moves."],
			],
		],
	},
	{
		id: "break",
		title: "2 Break",
		body: [
			"Pick an object and one of the ways offered. The pieces fill it exactly: what they lack is shown, and is nothing but the gaps you ask for. The whole object is kept; “Make whole again” brings it back.",
			[
				[
					"Voronoi",
					"Cells around points: even, random, or clustered around places, beacons and lines. The curve says how dense they are by the distance: drag its points, click for a new one, Delete takes one away. Stretch makes splinters or columns.",
				],
				[
					"Strokes",
					"Click for a blow with long splinters around it, drag for a line with crumbs along it. Or open an SVG drawing: its lines are laid over the broad face, circles are blows.",
				],
				[
					"Crack, then part",
					"Drag a line: a crack runs along it, on to the rim, and opens over frames as its two curves say. The parts wake by themselves at the frame after it is through.",
				],
				["Slices, rows and columns", "Slabs across an axis; a net of cells over a panel."],
				["Straight cuts", "Drag lines across the object in the view. Each cuts through everything behind it and is undone by itself."],
				["Cutter", "Other objects, laid into this one, cut out their shape. Both sides stay solid."],
				["Masonry", "Bricks in a pattern with mortar between them. Bricks come out in the nearest size that fits without slivers."],
				[
					"From a picture",
					"Joints are found by their brightness and shown before anything is built. Another picture builds everything anew, with the same names. The picture is on the faces, also in exported files.",
				],
				["Rounded stones", "Pieces worn round, so that they part."],
				[
					"Inside faces",
					"What a break lays open has a material of its own, with its own picture in metres. Rough makes it uneven: pieces that have not moved still fit, and what collides stays smooth.",
				],
				["Presets", "“Keep as preset” keeps a set-up for other objects and other shots. With several objects picked it breaks them all."],
			],
			"Slivers can be merged into the neighbour they share most with, or left out. Some of the pieces can be broken again: those you pick, or all that a rule such as “volume > 10 dm³” fits; they are named within their parent, Block/00007/00003.",
			"Pieces have stable names such as Breakwater/00017. The same settings and seed give the same pieces on every machine. A break that would take longer than a moment waits for “Break now”.",
		],
	},
	{
		id: "weigh",
		title: "3 Weigh",
		body: [
			"What is picked is what is set: an object with all its pieces, or single pieces, or everything that a rule in the ledger fits. A makes it active and P passive, at any stage.",
			[
				["All like …", "With several things picked: what was picked last gives the others its kind, mass, collider, surface and start."],
				["Active", "Moves by itself."],
				["Passive", "Holds still."],
				["Animated", "Moves by its keys and pushes others."],
				["Density", "From the material: concrete 2,400, glass 2,500, steel 7,850 kg/m³."],
				[
					"Collider",
					"What touches others. Automatic takes a sphere, box, cylinder, cone or hull where its volume is within 2 %, else several convex parts.",
				],
				[
					"Convex parts",
					"Hollow things collide as seen where enough hulls are allowed: they are cut until within a share of the volume, and until none buries the surface deeper than you say. “Show colliders” draws each part in its colour, and Apart pulls them from each other.",
				],
				[
					"Wakes",
					"From the start, at a frame, when touched at a least speed or with a least force (by whom a rule says), or when a region reaches it. Until then it stays where it is; an active thing with keys follows them, and takes their speed along when it wakes. A frame is a ring in the timeline that can be dragged.",
				],
				["Proxy", "A plain shape can collide for a rich one; the volume error says how far it is from what is seen."],
				[
					"Only in, flat",
					"Terrain can collide in a region only, where things fall, and in parts; or as flat ground while you try. “Only where things go” makes the region around the way that all took in the take on show. A check says that ground is flat and makes it true with one press.",
				],
				[
					"Start",
					"Velocity and spin that it has when it wakes, typed or made of two keys (“Make numbers of them”). “Throw a ball at it” sends a steel ball that wakes it; aim, speed and weight can be changed afterwards.",
				],
				[
					"Keys",
					"Go to a frame, place the object, “Set key” (K); go to another frame, place it again, K: two keys make a motion. Once it has keys, moving it at a frame sets one there. What took no part before is animated by its first key, and pushes what it meets. An active thing with keys follows them until it wakes, goes on with the speed that they had, and can go back to them at a frame.",
				],
				[
					"Mass, centre",
					"From the real shape and the density, or given; the centre of mass can be moved, and “Centres” above the view shows it.",
				],
				["Rests", "Slower than this and so long on the spot it calms down, and its heap sleeps. At a speed of 0 it never rests."],
				["Rolling, margin", "Rolling resistance stops balls; a margin of a millimetre calms thin things."],
			],
			"Of two surfaces that touch, friction is the mean and bounce the greater of the two.",
		],
	},
	{
		id: "bind",
		title: "4 Bind",
		body: [
			"Bonds hold pieces together until the stress in them is too high; then they let go where it is highest, not where the blow fell. What is bonded moves as one. Pick a broken object and press “Bond”; the lines in the view are its bonds, by strength, by load or by what has broken.",
			[
				[
					"Strength",
					"From the material (tension, shear and compression in MPa; the weaker of two), given, or endless. “Weaker … stronger” multiplies it; most things on screen want a third or less of what real concrete bears.",
				],
				[
					"Tough",
					"How much a crack takes from the blow, as a multiple of the clean fracture energy. Little shatters like glass, much leaves a hole and lets the rest stand.",
				],
				["Foot", "Held: bonded to the passive things that it stands on or touches, with the strength of its own material."],
				[
					"Slabs",
					"Larger parts that come off first and crumble later: bonds inside a slab are stronger than those between. Parts per slab are a second level. They are grouped evenly or by noise, seen by colour, and made by hand of what is picked.",
				],
				[
					"Uneven, yields, over frames",
					"Weak places by noise; damage that a second blow finishes; strength that rots or sets, as a curve.",
				],
				[
					"Crumbling",
					"Pieces below a size that have come off all round turn to dust after a while: they leave the run, the picture and files. Or they leave small stones, which fill their room, weigh what they did and fly on; Bind says how many may come, since each is one more body.",
				],
				[
					"Weak line",
					"Draw it on the object, or weaken what is picked, or what a rule means (“height < 0.4 m”, “in Region”). Each change has its strength, and can be taken back.",
				],
				["Own weight takes", "The share of their strength that standing alone takes. At 100 % it falls before anything has happened."],
				[
					"Connectors",
					"Pick one thing to hold it to the world, or two (Ctrl) to join them: fixed, pin, hinge, slider, spring, rope. They turn about and slide along their x axis; a pin can be kept within a cone about it. The view shows axes and stops, with a hand that goes with the first thing. Limits and motors are told for the first thing, in degrees, metres and newtons; “At a load” lets go when it has to bear more. What a connector pulls at loads the bonds there: a rope from something that moves by keys breaks a column off at its foot.",
				],
				[
					"Load",
					"What a connector bore in the take: now, at most, where, and over the frames. “Bonds” or “Connectors” over the view, by load, shows it. Choose a break load by it.",
				],
				[
					"Joins",
					"Two; a chain through bodies in their order; each to its nearest, or to all that lie beside it; each to the world. Which ones, a rule says.",
				],
				[
					"Chains and ropes",
					"A chain is made from one picked link, by count or length, hangs from what you choose and carries what you pick; between two things that are not above each other it sags, as long as you say. Held by pins, links that follow each other do not push each other and bear any load; held by contacts alone they rattle freely and bear ten times their own mass, and a check tells the substeps that more takes. A rope is short capsules, stiff against bending where wanted.",
				],
				[
					"Links",
					"A number of an object that follows another one by a formula: -(height - height0) / turns stretches a coil with its weight. It is added to what is set, so it rests where it was made. Units are checked. Files carry what becomes of the shape.",
				],
			],
		],
	},
	{
		id: "push",
		title: "5 Push",
		body: [
			"Gravity pulls everything; the diamond beside it keys it. Forces do the rest: each stands somewhere, can be moved, turned and keyed, and its arrows show what it does at the frame.",
			[
				[
					"Push, burst, whirl",
					"The same way everywhere; away from a point (negative: towards it); around an axis with lift and a pull inwards.",
				],
				["Wind", "Moving air that drags along by area; at no speed it is still air, in which light things fall slowly."],
				["Turbulence, stream", "Swirls that gather nothing anywhere; along a line of beacons and back to it."],
				["Reach", "Everywhere, or falling off by distance as the curve says. By axis: a share for each of its own axes."],
				["Frames, age", "From one frame to another; or a stage in the life of each body, counted from when it woke."],
				["Acts on", "A rule, as in the ledger. The eye turns a force off."],
				["Strength", "The diamond keys it at the frame on show."],
				[
					"Curves",
					"“Edit as curves”, under Keys, shows all keys of what is picked. Drag points (Shift keeps their values), drag a box around many, Alt and drag spreads what is picked in time and value, double-click a curve for a new key; Curved gives smooth ways, whose handles set the slope. Copy and Paste take keys to another frame; “Stop here” lets it stay from the frame on show on.",
				],
				[
					"Corrections",
					"“Correct here”, above the curves, lays a correction over the motion that fades in and out within twelve frames of the one on show: move or turn the object, and its own keys stay as they are. Several lie over each other; each can be muted, edited as curves, and taken away.",
				],
				[
					"Worlds",
					"Only bodies of one world meet; each has its own gravity. “Bring in a shot” puts another shot beside this one, in a world of its own.",
				],
			],
		],
	},
	{
		id: "run",
		title: "6 Run",
		body: [
			"Run simulates what is missing or out of date and stores every frame, so that any of them can be jumped to at once. Blue in the timeline is stored, ochre is out of date: it no longer follows from the shot.",
			"Substeps make a run more exact and slower by the same factor. If something thin is passed through, or a heavy pile shivers, take more. “Divided up to” does only those in 2, 4 or 8 parts in which something, or an end of it that spins, would cross more than its own thickness; how far is told while it runs. A run that is stopped goes on where it was, with the same result as in one go.",
			[
				[
					"Edits",
					"Hold collects them until you press Run. With Run, what an edit makes out of date is run as soon as you pause, from the first frame that it matters for; the next edit takes its place.",
				],
				[
					"Simulation from",
					"Until this frame nothing moves by itself, whatever its wake rule says; what is keyed does. A flag in the timeline, which can be dragged.",
				],
				[
					"Time scale",
					"Simulated seconds in a second of the shot: 0.2 is slow motion, 3 makes what was modelled nine times too large look its size. Keys stay where they are.",
				],
				[
					"Takes",
					"Every run belongs to a take, and can have a note. “Run as new” keeps the one before. Click a take to show it, or choose it beside Run at any stage; its menu renames, locks, picks the good one, duplicates, deletes, and takes up its settings. A locked take is never run into.",
				],
				["Out of date", "Under it stands what has changed since the take ran, number by number."],
				[
					"Sweep",
					"One number over values, or two against each other: 0.5, 1, 2 or 1..5 or 0.2..1 in 5. Each combination becomes a take that workers run beside the page; Jobs says how far they are.",
				],
				[
					"Compare takes",
					"Up to four side by side at one frame, the second as outlines over the first, or in turn with X; Space plays them. Turning one picture turns all. Below: what broke, energy, who is awake, blows, what was lost, and what differs. How deep things reach into each other is measured when asked for.",
				],
				[
					"Settle and keep",
					"What is picked falls onto everything else until all rests, stays there, and has no physics any more. Stop it when it looks right. Nothing lies deeper than a millimetre in anything.",
				],
				[
					"Start from a frame",
					"The next run begins with things where this frame has them. “Keep as set” takes physics away too; “Forget places” puts pieces and copies back.",
				],
				[
					"Go on from a frame",
					"The frames up to there stay, from there on the shot as it is now holds: more gravity, another friction, a motor turned off. It becomes a take of its own that says where it began.",
				],
				[
					"Carry over",
					"After a run of a coarse break, take more pieces: in the take's menu its motion is carried over to them at once. Run makes it true.",
				],
				["Run it alone", "Runs with nothing active but what is picked, into a take of its own."],
				[
					"Colours",
					"What is active by a gradient: noise, chance, place, speed, age, the hardest blow, a column of the pieces, or a formula such as (height - height0) / 2; or each thing as the pixel of a picture that lies over it. In the view, in OBJ, PLY and USD over time, in GLB as at the first frame.",
				],
				["Try", "Beside a check's fix: runs it as a take of its own and shows both; the shot stays as it is."],
			],
		],
	},
	{
		id: "bake",
		title: "7 Bake",
		body: [
			"Turns frames into keys and writes them to a file. “Fewest” leaves keys out while the motion stays within the tolerance. Size, number of keys and the largest error are told before anything is written.",
			[
				["All, picked", "Everything that is not hidden, or only what is picked, with all its pieces; events that it took part in."],
				[
					"Up, unit",
					"OBJ, PLY, CSV and JSON can be written with z up and in centimetres or millimetres, for programs that reckon so. GLB is y up in metres by its standard; USD says its own.",
				],
				["GLB", "Meshes, materials and animation, for most programs. Cracks and linked shapes are morph targets."],
				["GLB, packed", "The same at less than half the size, for the web and engines that read meshopt compression."],
				["GLB, one skin", "One mesh with a bone for each piece: few draw calls, for game engines."],
				[
					"USD, USDZ",
					"One file with time samples over the range, materials bound by name, copies as instances, or as points of an instancer. USDZ takes the pictures along.",
				],
				[
					"OBJ, PLY sequence",
					"A mesh for each frame, named with its number after an underscore, everything in its world place; OBJ with its pictures, and as one mesh where wanted.",
				],
				["CSV, JSON, JSON Lines", "Tables of places and rotations; JSON Lines with all events."],
				[
					"Pictures, video",
					"A PNG for each frame or an MP4 through the shot's first camera, drawn without a graphics card: what workers and the command line can make.",
				],
				["Frame cache", "A small binary file for each frame and a list of names; a reader is in the documentation."],
				[
					"Keys in the shot",
					"What is picked – objects, single pieces, single copies; with nothing picked all that moves by itself – gets the take's motion as keys and follows them; the curves can be edited and corrected in layers, and what is picked can be placed by its handles. “Delete bake” makes it what it was.",
				],
				[
					"Preview clip",
					"The range through the view or a camera at true speed, as a video or as pictures, with take and frame written in. “This frame” is one picture in the best quality.",
				],
				["Whole shot", "A zip with everything that belongs to the shot, with or without its frames. Open it in the yard of any machine."],
				[
					"Let a worker make it",
					"The file is made beside the page; Jobs has it when it is done. The frames of a sequence can be shared among workers: a zip from each.",
				],
			],
		],
	},
	{
		id: "jobs",
		title: "Jobs and workers",
		body: [
			"Runs, sweeps, files and breaks that take long can be left to workers. One runs beside the application; more are started with the address of the database alone, on any machine. A job that is cancelled keeps its frames and goes on from there when it is tried again. If a worker dies, another goes on from the last stored frames, with the same bytes.",
			"A job that takes too much memory or says nothing for too long is ended; one that does so twice is set aside, and its log says what is known. Others are done meanwhile.",
		],
	},
	{
		id: "saving",
		title: "Saving, and going back",
		body: [
			"Every edit is saved as you make it; the line under the shot's name says so. While the server does not answer edits stay in this browser and go out when it does, also after a reload. Two windows never overwrite each other: where both have changed a shot, you are asked. A take belongs to one run at a time.",
			[
				["Ctrl Z", "Undo, also after a reload: the last hundred edits."],
				[
					"saved 12:04",
					"A click on it lists all that was done. “Look” shows the shot as it was after a step, “Bring it back” makes it so, as a step that can be undone.",
				],
				["Trash", "Deleted shots lie at the foot of the yard for 30 days, with their takes."],
				["Whole shot", "In Bake: one file for another machine. A shot file is opened whole or not at all."],
				[
					"npm run backup",
					"On the machine that serves: everything that is stored, in one file, also while it runs. “npm run restore” takes it up.",
				],
			],
		],
	},
	{
		id: "numbers",
		title: "Numbers and units",
		body: [
			"Every number field takes a number, a small sum, and quantities in any unit that fits; a number without a unit is in the unit that stands beside it. What does not fit is refused with why, and Escape gives the old value back.",
			[
				["240 cm, 1.2m, 3 ft", "Lengths: µm, mm, cm, dm, m, km, in, ft; areas and volumes as m², dm³, l."],
				["2.7 g/cm³", "Masses mg, g, kg, t, and densities made of them."],
				["36 km/h, 2 turns/s", "Speeds and turning speeds. Angles: °, rad, turns."],
				["500 ms, 12 frames", "Times: ms, s, min, h, and frames of the shot."],
				["3 kN, 2 kN m, 30 kPa", "Forces N, kN, MN; moments; pressures Pa, kPa, MPa, GPa; energies J, kJ, MJ."],
				["1 m + 20 cm, 0.6/2 m", "Sums with + − * / and brackets; a unit after a bare sum is the unit of all of it."],
				["1 1 6", "Several at once fill the field and those after it that measure the same, each in the unit that it shows."],
			],
		],
	},
	{
		id: "rules",
		title: "Rules in the ledger",
		body: [
			"Type part of a name to find it. A rule filters by what things are, and Enter picks the rows that fit, together.",
			"W lays the wide ledger over the view: every object, piece and copy with all its numbers. Click a column to sort by it; pick rows, or all that a rule fits, and click a mass, density, friction or bounce among them to type it for all that is picked. CSV takes out what is listed, in SI units.",
			[
				["breakwater, piece", "The pieces of everything called breakwater. A comma means and."],
				[
					"volume < 20 dm³",
					"Compares a column with a number and its unit. Columns: volume, mass, area, size, height, triangles, neighbours; stroke is the distance from the nearest line that its break was drawn by.",
				],
				["piece, in Region", "The pieces that stand in the region of this name at the first frame."],
				["*/0000*", "A star stands for anything."],
				["not passive", "and, or, not, and brackets."],
			],
		],
	},
	{ id: "keys", title: "Keys", body: [SHORTCUTS.map(({ keys, what }) => [keys, what] as const)] },
];
