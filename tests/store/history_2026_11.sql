BEGIN TRANSACTION;
CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('0004');
CREATE TABLE edit (
	id INTEGER NOT NULL, 
	episode_id INTEGER NOT NULL, 
	parent_id INTEGER, 
	depth INTEGER NOT NULL, 
	name VARCHAR NOT NULL, 
	edit VARCHAR NOT NULL, 
	snapshot VARCHAR, 
	created_at DATETIME NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(episode_id) REFERENCES episode (id), 
	FOREIGN KEY(parent_id) REFERENCES edit (id)
);
INSERT INTO "edit" VALUES(1,1,NULL,1,'Added a recording to Host','{"kind":"place","take":"a","take_frames":2880000,"track_name":"Host","track_kind":"voice","at":null,"insert":false,"gain_db":0.0}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(2,1,1,2,'Added a recording to Guest','{"kind":"place","take":"b","take_frames":2400000,"track_name":"Guest","track_kind":"voice","at":0,"insert":false,"gain_db":0.0}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(3,1,2,3,'Added a recording to Music','{"kind":"place","take":"m","take_frames":480000,"track_name":"Music","track_kind":"music","at":0,"insert":false,"gain_db":-6.0}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(4,1,3,4,'Added track Spare','{"kind":"add_track","name":"Spare","track_kind":"voice"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(5,1,4,5,'Added a recording to Host','{"kind":"place","take":"c","take_frames":240000,"track_name":"Host","track_kind":"voice","at":960000,"insert":true,"gain_db":0.0}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(6,1,5,6,'Recorded over a span: 6.0 s on Host and Guest','{"kind":"record","takes":[{"take":"r1","track_name":"Host","gain_db":0.0},{"take":"r2","track_name":"Guest","gain_db":2.0}],"frames":288000,"skip":480,"at":1440000,"replacing":96000,"alongside":false,"markers":[{"at":48000,"kind":"flag","name":"here"}]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(7,1,6,7,'Chose the other take','{"kind":"choose_take","cut":5}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(8,1,7,8,'Added a marker “lamp”','{"kind":"add_marker","at":144000,"marks":"note","name":"lamp"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(9,1,8,9,'Moved a marker','{"kind":"change_marker","marker":"m8","at":192000,"marks":null,"name":"Lamp"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(10,1,9,10,'Cut 1.0 s','{"kind":"cut","start":480000,"frames":48000,"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(11,1,10,11,'Cut 2 spans','{"kind":"cut_many","spans":[{"start":528000,"frames":48000},{"start":672000,"frames":48000}],"crossfade_frames":480,"name":""}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(12,1,11,12,'Settled snags','{"kind":"tidy","cuts":[{"start":768000,"frames":24000}],"covers":[{"track":"t1","start":816000,"frames":24000,"tone":{"take":"a","start":48000,"frames":48000}}],"levels":[{"track":"t2","start":864000,"frames":48000,"by_db":-3.0}],"restores":[],"keep":[],"unkeep":[],"name":""}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(13,1,12,13,'Set what counts as a snag','{"kind":"set_snag_rules","air_limit_s":2.0,"own_fillers":[{"text":"you know","at_start":false}]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(14,1,13,14,'Cut 1.0 s of Guest alone','{"kind":"cut_alone","track":"t2","start":48000,"frames":48000,"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(15,1,14,15,'Silenced 1.0 s on Guest','{"kind":"silence","tracks":["t2"],"start":48000,"frames":48000}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(16,1,15,16,'Covered 1.0 s on Host','{"kind":"cover","track":"t1","start":48000,"frames":48000,"tone":{"take":"a","start":48000,"frames":48000},"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(17,1,16,17,'Brought back what was covered','{"kind":"uncover","track":"t1","at":48010}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(18,1,17,18,'Added 1.0 s of air','{"kind":"add_air","at":1248000,"frames":48000,"tones":{"t1":{"take":"a","start":48000,"frames":48000}},"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(19,1,18,19,'Set air to 0.5 s','{"kind":"set_air","start":1248000,"frames":48000,"to_frames":24000,"tones":{"t1":{"take":"a","start":48000,"frames":48000}},"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(20,1,19,20,'Moved 1.0 s','{"kind":"move","start":240000,"frames":48000,"to":576000,"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(21,1,20,21,'Put in 1.0 s','{"kind":"paste","revision":20,"start":288000,"frames":48000,"at":432000,"copied":[{"track":"t1","clips":[["a",336000,48000,0,0.0,0,0,"round","round",false]],"envelope":[]},{"track":"t2","clips":[["b",384000,48000,0,0.0,0,0,"round","round",false]],"envelope":[[0,0.0,"straight"],[48000,0.0,"straight"]]},{"track":"t3","clips":[["m",336000,48000,0,-6.0,0,0,"round","round",false]],"envelope":[]}],"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(22,1,21,22,'−6.0 dB for 1.0 s','{"kind":"gain_span","tracks":[],"start":48000,"frames":48000,"by_db":-6.0,"ramp_frames":9600}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(23,1,22,23,'Changed the gain of Host','{"kind":"set_envelope","track":"t1","points":[{"at":0,"db":0.0,"shape":"straight"},{"at":48000,"db":-3.0,"shape":"round"}]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(24,1,23,24,'Rode the gain','{"kind":"ride_gain","tracks":[{"track":"t2","points":[{"at":0,"db":1.0,"shape":"straight"}]}],"name":""}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(25,1,24,25,'Changed the sound of Host','{"kind":"set_chain","track":"t1","chain":{"noise":{"on":true,"strength":0.5},"hum":{"on":false,"hz":50.0,"highest":6},"low_cut":{"on":false,"hz":80.0},"bands":[{"kind":"peak","hz":200.0,"gain_db":-2.0,"q":0.7,"on":true}],"de_ess":{"on":false,"hz":6500.0,"threshold_db":-12.0,"most_db":6.0},"compressor":{"on":false,"threshold_db":-13.0,"ratio":3.0,"knee_db":6.0,"attack_ms":8.0,"release_ms":150.0,"make_up_db":0.0}},"name":""}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(26,1,25,26,'Faded in over 1.0 s on Music','{"kind":"fade_span","tracks":["t3"],"start":0,"frames":48000,"inwards":true,"shape":"round"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(27,1,26,27,'Split clips','{"kind":"split","at":384000,"tracks":[]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(28,1,27,28,'Joined clips','{"kind":"join","start":336000,"frames":96000}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(29,1,28,29,'Split clips','{"kind":"split","at":600000,"tracks":["t3"]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(30,1,29,30,'Moved a clip of Music','{"kind":"move_clip","track":"t3","at":600000,"to_track":"t3","to":768000}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(31,1,30,31,'Trimmed a clip of Music','{"kind":"trim_clip","track":"t3","at":768000,"start":768480,"end":780000}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(32,1,31,32,'Changed a clip of Music','{"kind":"set_clip","track":"t3","at":768480,"fade_in":480,"fade_out":null,"shape_in":null,"shape_out":null,"gain_db":-2.0}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(33,1,32,33,'Changed a crossfade','{"kind":"set_splice","at":240000,"crossfade_frames":960,"shape":"soft"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(34,1,33,34,'Moved the edge of a cut','{"kind":"move_edges","cut":9,"left":-480,"right":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(35,1,34,35,'Put a cut back','{"kind":"restore","cut":9}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(36,1,35,36,'Put cuts back','{"kind":"restore_all","start":0,"frames":576000}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(37,1,36,37,'Renamed Guest to Marit','{"kind":"set_track","track":"t2","name":"Marit","track_kind":null,"colour":null,"gain_db":-1.0,"muted":true,"soloed":null}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(38,1,37,38,'Changed the order of tracks','{"kind":"order_tracks","tracks":["t2","t1","t3","t4"]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(39,1,38,39,'Deleted track Spare','{"kind":"remove_track","track":"t4"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(40,1,39,40,'Chose room tone','{"kind":"choose_room_tone","start":48000,"frames":48000}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(41,1,40,41,'Left room tone to be found','{"kind":"find_room_tone","take":"a"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(42,1,41,42,'Changed the script','{"kind":"set_script","text":"Good evening."}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(43,1,42,43,'Corrected a word to “ferry”','{"kind":"correct_word","take":"a","word":3,"text":"ferry"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(44,1,43,44,'Corrected 1 word','{"kind":"correct_many","words":[{"take":"a","word":4,"text":""}],"name":""}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(45,1,44,45,'Tobin speaks here','{"kind":"name_speaker","words":[{"take":"a","first":0,"last":3}],"name":"Tobin"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(46,1,45,46,'Tobin is Tobin Ash','{"kind":"rename_speaker","old":"Tobin","new":"Tobin Ash"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(47,1,46,47,'Added a section','{"kind":"set_sections","sections":[{"id":null,"at":0,"name":"Start"},{"id":null,"at":576000,"name":"Talk"}]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(48,1,47,48,'Set loudness','{"kind":"set_loudness","layout":"mono","target_lufs":-18.0,"ceiling_dbtp":-1.0}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(49,1,48,49,'Evened out 2 sections','{"kind":"even_out","section_gains_db":[1.0,-1.0],"gain_db":3.0}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(50,1,49,50,'Set tags','{"kind":"set_tags","tags":{"title":"The last lamp","show":"","artist":"","album_artist":"","season":null,"episode":null,"year":null,"genre":"","description":"","language":"","copyright":"","link":""},"artwork":null}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(51,1,50,51,'Removed a marker','{"kind":"remove_marker","marker":"m8"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(52,1,51,52,'Kept only 40.0 s','{"kind":"keep_only","start":48000,"frames":1920000,"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(53,1,52,53,'−19.9 dB for 0 ms on Host and Marit','{"kind":"gain_span","tracks":["t1","t2"],"start":1844581,"frames":1,"by_db":-19.862186835158724,"ramp_frames":9600}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(54,1,53,54,'Put a cut back','{"kind":"restore","cut":13}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(55,1,54,55,'Set air to 0.6 s','{"kind":"set_air","start":423840,"frames":48000,"to_frames":27512,"tones":{"t2":{"take":"a","start":48000,"frames":48000},"t1":{"take":"a","start":48000,"frames":48000}},"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(56,1,55,56,'Cut 0 ms of Host alone','{"kind":"cut_alone","track":"t1","start":1187495,"frames":1,"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(57,1,56,57,'Kept only 0.5 s','{"kind":"keep_only","start":288000,"frames":22976,"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(58,1,57,58,'Moved the edge of a cut','{"kind":"move_edges","cut":18,"left":3678,"right":30907}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(59,1,58,59,'Cut 3 spans','{"kind":"cut_many","spans":[{"start":0,"frames":11039},{"start":0,"frames":11039},{"start":24000,"frames":11039}],"crossfade_frames":480,"name":""}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(60,1,59,60,'Changed the gain of Host','{"kind":"set_envelope","track":"t1","points":[{"at":38301,"db":3.671357918595369,"shape":"straight"},{"at":38658,"db":-19.12298658423361,"shape":"straight"},{"at":1172,"db":-8.13017757419265,"shape":"straight"},{"at":23427,"db":-2.475749531424661,"shape":"straight"}]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(61,1,60,61,'Changed a crossfade','{"kind":"set_splice","at":11937,"crossfade_frames":0,"shape":"round"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(62,1,61,62,'Put in 0.4 s','{"kind":"paste","revision":0,"start":0,"frames":18940,"at":24000,"copied":[{"track":"t2","clips":[["b",443039,11937,0,0.0,0,0,"round","round",false],["b",1728000,1024,11937,0.0,0,0,"round","round",false]],"envelope":[]},{"track":"t1","clips":[["a",395039,11937,0,0.0,0,0,"round","round",false],["a",1728000,1024,11937,0.0,0,0,"round","round",false]],"envelope":[]},{"track":"t3","clips":[["m",395039,11937,0,-6.0,0,0,"round","round",false]],"envelope":[]}],"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(63,1,62,63,'Put a cut back','{"kind":"restore","cut":23}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(64,1,63,64,'Added a marker “m”','{"kind":"add_marker","at":75360,"marks":"note","name":"m"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(65,1,64,65,'Silenced 0.7 s','{"kind":"silence","tracks":[],"start":25440,"frames":35698}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(66,1,65,66,'Put a cut back','{"kind":"restore","cut":22}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(67,1,66,67,'Faded out over 10 ms on Marit','{"kind":"fade_span","tracks":["t2"],"start":53280,"frames":480,"inwards":false,"shape":"straight"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(68,1,67,68,'Put in 1.0 s','{"kind":"paste","revision":0,"start":118728,"frames":48000,"at":103220,"copied":[{"track":"t2","clips":[["b",214728,48000,0,0.0,0,0,"round","round",false]],"envelope":[]},{"track":"t1","clips":[["a",166728,48000,0,0.0,0,0,"round","round",false]],"envelope":[]},{"track":"t3","clips":[["m",166728,48000,0,-6.0,0,0,"round","round",false]],"envelope":[]}],"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(69,1,68,69,'Covered 0.5 s on Music','{"kind":"cover","track":"t3","start":0,"frames":24000,"tone":{"take":"a","start":48000,"frames":48000},"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(70,1,69,70,'+7.6 dB for 0.5 s','{"kind":"gain_span","tracks":[],"start":240000,"frames":24000,"by_db":7.592742449434926,"ramp_frames":9600}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(71,1,70,71,'Covered 0.2 s on Music','{"kind":"cover","track":"t3","start":224885,"frames":9203,"tone":{"take":"a","start":48000,"frames":48000},"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(72,1,71,72,'Added 3 sections','{"kind":"set_sections","sections":[{"id":null,"at":0,"name":""},{"id":null,"at":34550,"name":""},{"id":null,"at":48875,"name":""},{"id":null,"at":87436,"name":""}]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(73,1,72,73,'Moved 1.0 s','{"kind":"move","start":336000,"frames":48000,"to":0,"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(74,1,73,74,'−60.0 dB for 0.1 s','{"kind":"gain_span","tracks":[],"start":63360,"frames":5974,"by_db":-60.0,"ramp_frames":9600}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(75,1,74,75,'Moved a clip of Host','{"kind":"move_clip","track":"t1","at":176660,"to_track":"t2","to":384000}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(76,1,75,76,'Changed the order of tracks','{"kind":"order_tracks","tracks":["t3","t1","t2"]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(77,1,76,77,'Moved a marker','{"kind":"change_marker","marker":"m25","at":9310,"marks":null,"name":null}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(78,1,77,78,'Faded out over 1.0 s on Music','{"kind":"fade_span","tracks":["t3"],"start":105347,"frames":48000,"inwards":false,"shape":"round"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(79,1,78,79,'Put cuts back','{"kind":"restore_all","start":360000,"frames":38419}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(80,1,79,80,'Changed a clip of Host','{"kind":"set_clip","track":"t1","at":25440,"fade_in":20344,"fade_out":null,"shape_in":null,"shape_out":"soft","gain_db":-3.0}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(81,1,80,81,'Changed the order of tracks','{"kind":"order_tracks","tracks":["t2","t1","t3"]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(82,1,81,82,'Set air to 0.7 s','{"kind":"set_air","start":24000,"frames":48000,"to_frames":33732,"tones":{"t2":{"take":"a","start":48000,"frames":48000},"t1":{"take":"a","start":48000,"frames":48000}},"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(83,1,82,83,'Cut 1.0 s','{"kind":"cut","start":209280,"frames":48000,"crossfade_frames":0}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(84,1,83,84,'Faded out over 0.1 s on Music and Host','{"kind":"fade_span","tracks":["t3","t1"],"start":288000,"frames":2826,"inwards":false,"shape":"soft"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(85,1,84,85,'Set air to 0.8 s','{"kind":"set_air","start":202596,"frames":48000,"to_frames":39180,"tones":{"t2":{"take":"a","start":48000,"frames":48000},"t1":{"take":"a","start":48000,"frames":48000}},"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(86,1,85,86,'Cut 1.0 s','{"kind":"cut","start":179520,"frames":48000,"crossfade_frames":4800}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(87,1,86,87,'Silenced 2.1 s','{"kind":"silence","tracks":[],"start":214331,"frames":102225}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(88,1,87,88,'Put a cut back','{"kind":"restore","cut":21}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(89,1,88,89,'Split clips','{"kind":"split","at":1805918,"tracks":["t1","t2"]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(90,1,89,90,'Moved a marker','{"kind":"change_marker","marker":"m25","at":1536000,"marks":null,"name":null}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(91,1,90,91,'Changed the order of tracks','{"kind":"order_tracks","tracks":["t3","t1","t2"]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(92,1,91,92,'Cut 3 spans','{"kind":"cut_many","spans":[{"start":264000,"frames":15935},{"start":480000,"frames":15935},{"start":1680000,"frames":15935}],"crossfade_frames":480,"name":""}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(93,1,92,93,'Moved a marker','{"kind":"change_marker","marker":"m25","at":1723947,"marks":null,"name":null}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(94,1,93,94,'Changed a crossfade','{"kind":"set_splice","at":1679123,"crossfade_frames":960,"shape":"round"}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(95,1,94,95,'Changed the order of tracks','{"kind":"order_tracks","tracks":["t2","t1","t3"]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(96,1,95,96,'Split clips','{"kind":"split","at":744000,"tracks":["t3","t1","t2"]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(97,1,96,97,'Cut 1.0 s','{"kind":"cut","start":528000,"frames":46293,"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(98,1,97,98,'Changed the order of tracks','{"kind":"order_tracks","tracks":["t3","t1","t2"]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(99,1,98,99,'Moved a marker','{"kind":"change_marker","marker":"m25","at":1903680,"marks":null,"name":null}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(100,1,99,100,'Added 1.0 s of air','{"kind":"add_air","at":1321920,"frames":48000,"tones":{"t1":{"take":"a","start":48000,"frames":48000},"t2":{"take":"a","start":48000,"frames":48000}},"crossfade_frames":480}','{"tracks":[{"id":"t3","name":"Music","kind":"music","clips":[["m",395039,84961,0,-6.0,0,0,"round","round",false],["m",336000,5596,132961,-6.0,480,0,"round","round",false],["m",362084,21916,138557,-6.0,480,0,"round","round",false],["m",240000,24000,288538,-6.0,0,0,"round","round",false],["m",264480,11520,465083,-2.0,480,0,"round","round",true],["m",395039,9825,1597988,-6.0,0,0,"round","round",false],["tone/a/48000/48000/26",48000,15426,1607813,0.0,480,0,"round","round",false],["m",77694,26598,1623239,-6.0,480,0,"round","round",false],["m",120227,30993,1649837,-6.0,480,0,"round","round",false],["m",166728,48000,1680830,-6.0,960,0,"round","round",false],["m",151220,17128,1728830,-6.0,480,0,"round","round",false],["m",321168,34811,1745958,-6.0,4800,0,"round","round",false]],"gain_db":0.0,"muted":false,"soloed":false,"colour":null,"envelope":[[0,0.0,"straight"],[1607813,0.0,"straight"],[1607813,-6.0,"straight"],[1607813,0.0,"straight"],[1607813,-6.0,"straight"],[1623239,-6.0,"straight"],[1623239,-14.5875,"straight"],[1631465,-66.0,"straight"],[1637439,-66.0,"straight"],[1647039,-2.56625,"straight"],[1649837,-0.8175000000000001,"straight"],[1649837,0.0,"straight"],[1657517,0.0,"straight"],[1705517,-72.0,"straight"],[1705517,0.0,"straight"],[1745958,0.0,"straight"],[1745958,0.34167341022457176,"straight"],[1746390,0.0,"straight"],[1797618,0.0,"soft"],[1800444,-72.0,"straight"],[1800444,0.0,"straight"],[1808790,0.0,"straight"],[1808790,0.0,"straight"]],"chain":{"noise":{"on":false,"strength":0.6},"hum":{"on":false,"hz":50.0,"highest":6},"low_cut":{"on":false,"hz":80.0},"bands":[],"de_ess":{"on":false,"hz":6500.0,"threshold_db":-12.0,"most_db":6.0},"compressor":{"on":false,"threshold_db":-13.0,"ratio":3.0,"knee_db":6.0,"attack_ms":8.0,"release_ms":150.0,"make_up_db":0.0}}},{"id":"t1","name":"Host","kind":"voice","clips":[["a",395039,132961,0,0.0,0,0,"round","round",false],["a",336000,5596,132961,0.0,480,0,"round","round",false],["a",362084,21916,138557,0.0,480,0,"round","round",false],["a",528000,103527,160473,0.0,480,0,"round","round",false],["a",647462,24538,264000,0.0,480,0,"round","round",false],["a",240000,48000,288538,0.0,480,0,"round","round",false],["a",672000,48000,336538,0.0,480,0,"round","round",false],["a",768000,79527,384538,0.0,480,0,"round","round",false],["a",863462,63935,464065,0.0,480,0,"round","round",false],["tone/a/48000/48000/12",61690,10310,528000,0.0,480,0,"round","round",false],["c",24000,159397,538310,0.0,480,0,"round","round",false],["c",183397,56603,697707,0.0,0,0,"round","round",true],["a",960000,55983,754310,0.0,0,0,"round","round",false],["a",1015984,160016,810293,0.0,480,0,"round","round",false],["tone/a/48000/48000/15",48000,12000,970309,0.0,480,0,"round","round",false],["tone/a/48000/48000/15",84000,12000,982309,0.0,480,0,"round","round",false],["a",1176000,327611,994309,0.0,480,0,"round","round",false],["tone/a/48000/48000/39",48000,48000,1321920,0.0,480,0,"round","round",false],["a",1503611,224389,1369920,0.0,480,0,"round","round",false],["a",1728000,3678,1594310,0.0,0,0,"round","round",false],["a",395039,9825,1597988,0.0,480,0,"round","round",false],["a",48000,15426,1607813,-3.0,20344,0,"round","round",false],["a",77694,26598,1623239,-3.0,480,0,"round","round",false],["a",120227,30993,1649837,-3.0,480,0,"round","soft",false],["a",166728,48000,1680830,0.0,960,0,"round","round",false],["a",321168,13862,1745958,0.0,0,0,"round","round",false],["a",335030,20949,1759820,0.0,0,0,"round","round",true]],"gain_db":0.0,"muted":false,"soloed":false,"colour":null,"envelope":[[0,0.0,"straight"],[0,-8.109385214915287,"straight"],[1172,-8.13017757419265,"straight"],[264000,-7.253644980383514,"straight"],[264000,-7.200501681791474,"straight"],[464065,-6.533283982838452,"straight"],[464065,-6.480140684246413,"straight"],[528000,-6.266917163977693,"straight"],[528000,-6.11252979518439,"straight"],[1509291,-3.0,"straight"],[1518891,-22.862186835158724,"straight"],[1518892,-22.862186835158724,"straight"],[1528492,-3.0,"straight"],[1597988,-5.1348932697131255,"straight"],[1597988,0.0,"straight"],[1607813,0.0,"straight"],[1607813,-3.0,"straight"],[1607813,0.0,"straight"],[1607813,-3.0,"round"],[1623239,-3.2736714455739,"straight"],[1623239,-12.114298904762828,"straight"],[1631465,-63.672735719963846,"straight"],[1637439,-63.77871998133157,"straight"],[1647039,-3.949032821828744,"straight"],[1649837,-3.998671918465317,"straight"],[1649837,-4.281373492769744,"straight"],[1680830,-4.831217853762347,"straight"],[1680830,0.0,"straight"],[1728830,0.0,"straight"],[1728830,-4.831217853762347,"straight"],[1745958,-5.135084346682725,"straight"],[1745958,-6.653014263636697,"straight"],[1746390,-7.0023517516836415,"straight"],[1797618,-1.253690284772591,"soft"],[1800444,-72.0,"straight"],[1800444,-0.9365645467876877,"straight"],[1808790,0.0,"straight"],[1808790,-3.0,"round"],[1819829,-8.109385214915287,"straight"],[1819829,0.0,"straight"],[1828944,0.0,"straight"],[1828944,-5.1348932697131255,"straight"],[1839410,-2.475749531424661,"straight"],[1854284,3.671357918595369,"straight"],[1854641,-19.12298658423361,"straight"]],"chain":{"noise":{"on":true,"strength":0.5},"hum":{"on":false,"hz":50.0,"highest":6},"low_cut":{"on":false,"hz":80.0},"bands":[{"kind":"peak","hz":200.0,"gain_db":-2.0,"q":0.7,"on":true}],"de_ess":{"on":false,"hz":6500.0,"threshold_db":-12.0,"most_db":6.0},"compressor":{"on":false,"threshold_db":-13.0,"ratio":3.0,"knee_db":6.0,"attack_ms":8.0,"release_ms":150.0,"make_up_db":0.0}}},{"id":"t2","name":"Marit","kind":"voice","clips":[["b",443039,36961,0,0.0,0,0,"round","round",false],["b",528000,48000,36961,0.0,480,0,"round","round",false],["b",480000,48000,84961,0.0,0,0,"round","round",false],["b",384000,5596,132961,0.0,480,0,"round","round",false],["b",410084,21916,138557,0.0,480,0,"round","round",false],["b",624000,48000,160473,0.0,480,0,"round","round",false],["b",576000,48000,208473,0.0,0,0,"round","round",false],["b",672000,7527,256473,0.0,0,0,"round","round",false],["b",695462,24538,264000,0.0,480,0,"round","round",false],["b",288000,48000,288538,0.0,480,0,"round","round",false],["b",768000,127527,336538,0.0,480,0,"round","round",false],["b",911462,538,464065,0.0,480,0,"round","round",false],["b",936000,24000,464603,0.0,480,0,"round","round",false],["b",912000,15397,512603,0.0,0,0,"round","round",false],["b",960000,216000,754310,0.0,0,0,"round","round",false],["b",1176000,327610,994310,0.0,0,0,"round","round",false],["tone/a/48000/48000/40",48000,48000,1321920,0.0,480,0,"round","round",false],["b",1503610,228068,1369920,0.0,480,0,"round","round",false],["b",443039,9825,1597988,0.0,480,0,"round","round",false],["b",144000,8292,1641545,0.0,0,0,"round","round",false],["b",168227,30993,1649837,0.0,480,0,"round","round",false],["b",214728,48000,1680830,0.0,960,0,"round","round",false],["b",199220,17128,1728830,0.0,480,0,"round","round",false],["b",369168,13862,1745958,0.0,4800,0,"round","round",false],["b",383030,20949,1759820,0.0,0,0,"round","round",true],["a",191825,48175,1882994,0.0,0,0,"round","round",false]],"gain_db":-1.0,"muted":true,"soloed":false,"colour":null,"envelope":[[0,1.0,"straight"],[1509291,1.0,"straight"],[1518891,-18.862186835158724,"straight"],[1518892,-18.862186835158724,"straight"],[1528492,1.0,"straight"],[1597988,1.0,"straight"],[1597988,0.0,"straight"],[1607813,0.0,"straight"],[1607813,1.0,"straight"],[1646825,1.0,"straight"],[1647305,-72.0,"straight"],[1647305,1.0,"straight"],[1680830,1.0,"straight"],[1680830,0.0,"straight"],[1728830,0.0,"straight"],[1728830,1.0,"straight"],[1745958,1.0,"straight"],[1745958,1.3416734102245718,"straight"],[1746390,1.0,"straight"],[1808790,1.0,"straight"],[1808790,1.0,"straight"],[1819829,1.0,"straight"],[1819829,0.0,"straight"],[1828944,0.0,"straight"],[1828944,1.0,"straight"]],"chain":{"noise":{"on":false,"strength":0.6},"hum":{"on":false,"hz":50.0,"highest":6},"low_cut":{"on":false,"hz":80.0},"bands":[],"de_ess":{"on":false,"hz":6500.0,"threshold_db":-12.0,"most_db":6.0},"compressor":{"on":false,"threshold_db":-13.0,"ratio":3.0,"knee_db":6.0,"attack_ms":8.0,"release_ms":150.0,"make_up_db":0.0}}}],"sections":[{"id":"s0","at":0,"name":"Section 1","gain_db":1.0},{"id":"s17","at":208473,"name":"Talk","gain_db":-1.0},{"id":"s28","at":1628095,"name":"Section 2","gain_db":1.0},{"id":"s29","at":1642420,"name":"Section 3","gain_db":1.0},{"id":"s30","at":1665046,"name":"Section 4","gain_db":1.0}],"cuts":[[19,0,{"frames":48000,"removed":48000,"tracks":["t2","t1","t3"],"clips":[[["b",0,48000,0,0.0,0,0,"round","round",false]],[["a",0,48000,0,0.0,0,0,"round","round",false]],[["m",0,48000,0,-6.0,48000,0,"round","round",false]]],"sections":[{"id":"s0","at":0,"name":"Start","gain_db":1.0}],"cuts":[],"markers":[],"shortened":[],"envelopes":[[[0,1.0,"straight"]],[[0,0.0,"straight"]],[[38400,0.0,"straight"]]],"anchors":[[[0,1.0,"straight"],[0,1.0,"straight"]],[[0,0.0,"straight"],[0,-3.0,"round"]],[[0,0.0,"straight"],[0,-6.0,"straight"]]]},0],[20,138557,{"frames":20488,"removed":20488,"tracks":["t2","t1","t3"],"clips":[[["b",389596,20488,0,0.0,0,0,"round","round",false]],[["a",341596,20488,0,0.0,0,0,"round","round",false]],[["m",341596,20488,0,-6.0,0,0,"round","round",false]]],"sections":[],"cuts":[],"markers":[],"shortened":[],"envelopes":[[],[],[]],"anchors":[[],[],[]]},0],[37,264000,{"frames":15935,"removed":15935,"tracks":["t3","t1","t2"],"clips":[[],[["a",631527,15935,0,0.0,0,0,"round","round",false]],[["b",679527,15935,0,0.0,0,0,"round","round",false]]],"sections":[],"cuts":[],"markers":[],"shortened":[],"envelopes":[[],[],[]],"anchors":[[],[[264000,-7.253644980383514,"straight"],[264000,-7.200501681791474,"straight"]],[]]},0],[10,384538,{"frames":48000,"removed":48000,"tracks":["t1","t2","t3","t4"],"clips":[[["a",720000,48000,0,0.0,0,0,"round","round",false]],[["b",720000,48000,0,0.0,0,0,"round","round",false]],[],[]],"sections":[],"cuts":[],"markers":[],"shortened":[],"envelopes":[[],[],[],[]],"anchors":[[],[],[],[]]},0],[36,464065,{"frames":15935,"removed":15935,"tracks":["t3","t1","t2"],"clips":[[],[["a",847527,15935,0,0.0,0,0,"round","round",false]],[["b",895527,15935,0,0.0,0,0,"round","round",false]]],"sections":[],"cuts":[],"markers":[],"shortened":[],"envelopes":[[],[],[]],"anchors":[[],[[480000,-6.533283982838452,"straight"],[480000,-6.480140684246413,"straight"]],[]]},0],[38,528000,{"frames":46293,"removed":46293,"tracks":["t2","t1","t3"],"clips":[[["b",927397,8603,0,0.0,0,0,"round","round",false]],[["a",927397,32603,0,0.0,0,0,"round","round",false],["tone/a/48000/48000/12",48000,13690,32603,0.0,480,0,"round","round",false]],[]],"sections":[],"cuts":[],"markers":[],"shortened":[],"envelopes":[[],[],[]],"anchors":[[],[[528000,-6.266917163977693,"straight"],[528000,-6.11252979518439,"straight"]],[]]},0],[16,982310,{"frames":24000,"removed":24000,"tracks":["t1","t2","t3","t4"],"clips":[[["tone/a/48000/48000/15",60000,24000,0,0.0,0,0,"round","round",false]],[],[],[]],"sections":[],"cuts":[],"markers":[],"shortened":[],"envelopes":[[],[],[],[]],"anchors":[[],[],[],[]]},0],[7,1018310,{"frames":287520,"removed":287520,"tracks":["t1","t2","t3","t4"],"clips":[[["r1",480,287520,0,0.0,0,0,"round","round",false]],[["r2",480,287520,0,2.0,0,0,"round","round",false]],[],[]],"sections":[],"cuts":[],"markers":[{"id":"m6","at":47520,"kind":"flag","name":"here"}],"shortened":[[5,287520]],"envelopes":[[],[],[],[]],"anchors":[[],[],[],[]]},96000],[18,1597988,{"frames":1148322,"removed":1148322,"tracks":["t2","t1","t3"],"clips":[[["b",1731678,668322,0,0.0,0,0,"round","round",false]],[["a",1731678,1148322,0,0.0,0,0,"round","round",false]],[]],"sections":[],"cuts":[],"markers":[],"shortened":[],"envelopes":[[],[],[]],"anchors":[[],[],[]]},0],[31,1623239,{"frames":14268,"removed":14268,"tracks":["t2","t1","t3"],"clips":[[],[["a",63426,14268,0,-3.0,0,0,"round","round",false]],[["tone/a/48000/48000/26",63426,8574,0,0.0,0,0,"round","round",false],["m",72000,5694,8574,-6.0,480,0,"round","round",false]]],"sections":[],"cuts":[],"markers":[],"shortened":[],"envelopes":[[],[[12894,-3.50242287946667,"straight"]],[[12894,-6.0,"straight"]]],"anchors":[[],[[40866,-3.2736714455739,"straight"],[40866,-12.114298904762828,"straight"]],[[40866,-6.0,"straight"],[40866,-14.5875,"straight"]]]},0],[35,1649837,{"frames":15935,"removed":15935,"tracks":["t3","t1","t2"],"clips":[[["m",104292,15935,0,-6.0,0,0,"round","round",false]],[["a",104292,15935,0,-3.0,0,0,"round","round",false]],[["b",152292,15935,0,0.0,0,0,"round","round",false]]],"sections":[],"cuts":[],"markers":[],"shortened":[],"envelopes":[[[1308,0.0,"straight"]],[],[]],"anchors":[[[1680000,-0.8175000000000001,"straight"],[1680000,0.0,"straight"]],[[1680000,-3.998671918465317,"straight"],[1680000,-4.281373492769744,"straight"]],[]]},0],[34,1745958,{"frames":48000,"removed":104820,"tracks":["t2","t1","t3"],"clips":[[["b",216348,29760,0,0.0,0,0,"round","round",false],["b",342108,12906,29760,0.0,0,0,"round","round",false],["b",363834,5334,42666,0.0,480,0,"round","round",false]],[["a",294108,12906,29760,0.0,0,0,"round","round",false],["a",315834,5334,42666,0.0,480,0,"round","round",false]],[["m",168348,29760,0,-6.0,0,0,"round","round",false],["m",294108,12906,29760,-6.0,0,0,"round","round",false],["m",315834,5334,42666,-6.0,480,0,"round","round",false]]],"sections":[],"cuts":[[32,29760,{"frames":48000,"removed":48000,"tracks":["t2","t1","t3"],"clips":[[["b",246108,41892,0,0.0,0,0,"round","round",false],["b",336000,6108,41892,0.0,960,0,"soft","round",false]],[["a",288000,6108,41892,0.0,960,0,"soft","round",false]],[["m",198108,26777,0,-6.0,0,0,"round","round",false],["tone/a/48000/48000/27",48000,9203,26777,0.0,480,0,"round","round",false],["m",234088,5912,35980,-6.0,480,0,"round","round",false],["m",288000,6108,41892,-6.0,960,0,"soft","round",false]]],"sections":[],"cuts":[],"markers":[],"shortened":[],"envelopes":[[[32292,1.0,"straight"],[41892,8.592742449434926,"straight"]],[[32292,-6.235943969446348,"straight"],[41892,1.1864856394914014,"straight"]],[[32292,0.0,"straight"],[41892,7.592742449434926,"straight"]]],"anchors":[[[209280,1.0,"straight"],[209280,8.592742449434926,"straight"]],[[209280,-5.663054152223971,"straight"],[209280,1.078124094725073,"straight"]],[[209280,0.0,"straight"],[209280,7.592742449434926,"straight"]]]},0],[33,42666,{"frames":8820,"removed":8820,"tracks":["t2","t1","t3"],"clips":[[["b",355014,8820,0,0.0,0,0,"round","round",false]],[["a",307014,8820,0,0.0,0,0,"round","round",false]],[["m",307014,8820,0,-6.0,0,0,"round","round",false]]],"sections":[],"cuts":[],"markers":[],"shortened":[],"envelopes":[[[4986,8.592742449434926,"straight"]],[[4986,0.7607035382484604,"straight"]],[[4986,7.592742449434926,"straight"]]],"anchors":[[[222186,8.592742449434926,"straight"],[222186,5.560390933691853,"straight"]],[[222186,0.8491597697816814,"straight"],[222186,-2.3396666681681726,"straight"]],[[222186,7.592742449434926,"straight"],[222186,4.560390933691853,"straight"]]]},0]],"markers":[],"shortened":[],"envelopes":[[[29760,1.0,"straight"],[29760,8.592742449434926,"straight"],[42666,8.592742449434926,"straight"],[42666,5.560390933691853,"straight"]],[[29760,-5.663054152223971,"straight"],[29760,1.078124094725073,"straight"],[42666,0.8491597697816814,"straight"],[42666,-2.3396666681681726,"straight"]],[[29760,0.0,"straight"],[29760,7.592742449434926,"straight"],[42666,7.592742449434926,"straight"],[42666,4.560390933691853,"straight"]]],"anchors":[[[179520,1.0,"straight"],[179520,1.3416734102245718,"straight"]],[[179520,-5.135084346682725,"straight"],[179520,-6.653014263636697,"straight"]],[[179520,0.0,"straight"],[179520,0.34167341022457176,"straight"]]]},0]],"markers":[{"id":"m25","at":1931169,"kind":"note","name":"m"}],"lengths":{"a":2880000,"b":2400000,"m":480000,"c":240000,"r1":288000,"r2":288000},"corrections":{"a:3":"ferry","a:4":""},"speakers":{"a":[[0,"Tobin Ash"],[4,""]]},"room_tones":{},"script":"Good evening.","kept":[],"snag_rules":{"air_limit_s":2.0,"own_fillers":[{"text":"you know","at_start":false}]},"loudness":{"layout":"mono","target_lufs":-18.0,"ceiling_dbtp":-1.0,"gain_db":3.0},"tags":{"title":"The last lamp","show":"","artist":"","album_artist":"","season":null,"episode":null,"year":null,"genre":"","description":"","language":"","copyright":"","link":""},"artwork":null,"next_id":41,"notices":[]}','2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(101,1,100,101,'Moved 2.1 s','{"kind":"move","start":1690110,"frames":99085,"to":1936849,"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(102,1,101,102,'Silenced 10 ms on Host','{"kind":"silence","tracks":["t1"],"start":574560,"frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(103,1,102,103,'Removed a section','{"kind":"set_sections","sections":[{"id":null,"at":0,"name":""},{"id":null,"at":36008,"name":""},{"id":null,"at":1008893,"name":""},{"id":null,"at":1224876,"name":""}]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(104,1,103,104,'Moved the edge of a cut','{"kind":"move_edges","cut":10,"left":-11161,"right":4754}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(105,1,104,105,'Moved a marker','{"kind":"change_marker","marker":"m25","at":517059,"marks":null,"name":null}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(106,1,105,106,'Changed the gain of Music','{"kind":"set_envelope","track":"t3","points":[{"at":1632000,"db":-18.676468217623725,"shape":"soft"},{"at":1752000,"db":-0.7405568327197223,"shape":"soft"},{"at":0,"db":-14.892438720647608,"shape":"soft"},{"at":456000,"db":0.5522099749026914,"shape":"soft"}]}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(107,1,106,107,'Kept only 0 ms','{"kind":"keep_only","start":737626,"frames":8,"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(108,1,107,108,'Moved a clip of Host','{"kind":"move_clip","track":"t1","at":0,"to_track":"t1","to":33120}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(109,1,108,109,'Moved the edge of a cut','{"kind":"move_edges","cut":45,"left":-22682,"right":4727}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(110,1,109,110,'Put a cut back','{"kind":"restore","cut":19}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(111,1,110,111,'Added 0.5 s of air','{"kind":"add_air","at":72000,"frames":24000,"tones":{"t1":{"take":"a","start":48000,"frames":48000},"t2":{"take":"a","start":48000,"frames":48000}},"crossfade_frames":480}',NULL,'2026-11-28 00:00:00');
INSERT INTO "edit" VALUES(112,1,111,112,'Changed the order of tracks','{"kind":"order_tracks","tracks":["t2","t1","t3"]}',NULL,'2026-11-28 00:00:00');
CREATE TABLE episode (
	id INTEGER NOT NULL, 
	show_id INTEGER NOT NULL, 
	title VARCHAR NOT NULL, 
	head_id INTEGER, 
	tip_id INTEGER, 
	frames INTEGER NOT NULL, 
	trimmed INTEGER NOT NULL, 
	season INTEGER, 
	number INTEGER, 
	artwork VARCHAR, 
	created_at DATETIME NOT NULL, 
	updated_at DATETIME NOT NULL, 
	deleted_at DATETIME, 
	PRIMARY KEY (id), 
	FOREIGN KEY(show_id) REFERENCES show (id)
);
INSERT INTO "episode" VALUES(1,1,'The last lamp',112,112,100401,3668978,NULL,NULL,NULL,'2026-11-28 07:48:35.586771','2026-11-28 07:48:36.130925',NULL);
CREATE TABLE guest (
	token VARCHAR NOT NULL, 
	episode_id INTEGER NOT NULL, 
	name VARCHAR NOT NULL, 
	created_at DATETIME NOT NULL, 
	revoked_at DATETIME, 
	PRIMARY KEY (token), 
	FOREIGN KEY(episode_id) REFERENCES episode (id)
);
CREATE TABLE job (
	id VARCHAR NOT NULL, 
	kind VARCHAR NOT NULL, 
	episode_id INTEGER NOT NULL, 
	params VARCHAR NOT NULL, 
	state VARCHAR NOT NULL, 
	progress FLOAT NOT NULL, 
	doing VARCHAR NOT NULL, 
	result VARCHAR, 
	error VARCHAR, 
	cancel BOOLEAN NOT NULL, 
	attempts INTEGER NOT NULL, 
	created_at DATETIME NOT NULL, 
	updated_at DATETIME NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(episode_id) REFERENCES episode (id)
);
CREATE TABLE recording (
	id VARCHAR NOT NULL, 
	episode_id INTEGER NOT NULL, 
	state VARCHAR NOT NULL, 
	tracks VARCHAR NOT NULL, 
	landing VARCHAR NOT NULL, 
	flags VARCHAR NOT NULL, 
	created_at DATETIME NOT NULL, guest VARCHAR, beside VARCHAR, whole INTEGER, heard VARCHAR, 
	PRIMARY KEY (id), 
	FOREIGN KEY(episode_id) REFERENCES episode (id)
);
CREATE TABLE setup (
	id INTEGER NOT NULL, 
	name VARCHAR NOT NULL, 
	chain VARCHAR NOT NULL, 
	created_at DATETIME NOT NULL, 
	deleted_at DATETIME, 
	PRIMARY KEY (id), 
	UNIQUE (name)
);
CREATE TABLE show (
	id INTEGER NOT NULL, 
	name VARCHAR NOT NULL, 
	created_at DATETIME NOT NULL, 
	deleted_at DATETIME, 
	PRIMARY KEY (id)
);
INSERT INTO "show" VALUES(1,'Slack Water','2026-11-28 07:48:35.580294',NULL);
CREATE TABLE take (
	id VARCHAR NOT NULL, 
	episode_id INTEGER NOT NULL, 
	name VARCHAR NOT NULL, 
	frames INTEGER NOT NULL, 
	channels INTEGER NOT NULL, 
	sha256 VARCHAR NOT NULL, 
	notice VARCHAR, 
	words VARCHAR, 
	created_at DATETIME NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(episode_id) REFERENCES episode (id)
);
CREATE INDEX ix_episode_show_id ON episode (show_id);
CREATE INDEX edit_parent ON edit (parent_id);
CREATE INDEX ix_edit_episode_id ON edit (episode_id);
CREATE INDEX ix_job_episode_id ON job (episode_id);
CREATE INDEX ix_job_state ON job (state);
CREATE INDEX ix_job_updated_at ON job (updated_at);
CREATE INDEX ix_take_episode_id ON take (episode_id);
CREATE INDEX ix_recording_episode_id ON recording (episode_id);
CREATE INDEX ix_recording_state ON recording (state);
CREATE INDEX ix_guest_episode_id ON guest (episode_id);
CREATE INDEX ix_recording_beside ON recording (beside);
COMMIT;
