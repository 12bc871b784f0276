/** What the command line says of itself. */
export const HELP = `Usage: npm run -s cli -- COMMAND …
  measure FILE                     measures a sound file; JSON on stdout
  survey FILE                      what is wrong with a sound file, in the order of mending; JSON on stdout
  clean IN OUT --chain CHAIN.json  treats a file; the ending of OUT names its format: wav, flac, mp3, m4a, opus, ogg, aiff; .f32.wav is
                                   a WAV of floats; mp4, mov, mkv, webm put the sound back into the picture of IN
      [--noise START-END|auto]     passage with noise alone, in seconds (several with commas); auto takes the best
                                   that the survey finds
      [--profile PROFILE.json]     a noise profile that was kept, instead of a passage
      [--output result|removed]    what is written
      [--loudness LUFS] [--ceiling DBTP]   level to reach, highest true peak
      [--bits 16|24|32f] [--bitrate KBPS] [--rate HZ]   how OUT is written
      [--target TARGET.json]       level and file as a target asks for; the check sheet of OUT as JSON on stdout
      [--no-others]                of a picture's other sound tracks and subtitles none goes along
      [--channels 1,2]             which one or two channels
  batch FOLDER OUT --chain CHAIN.json|--suggested   cleans every sound file of a folder into OUT; what fails does not stop the
                                   rest; a run that was broken off goes on; what became of each as JSON on stdout
      [--to ENDING]                format of the results (wav); noise, level, file and target as in clean
  report BEFORE AFTER OUT.html|pdf|json [--chain CHAIN.json] [--target TARGET.json]
                                   what was received, found, done and measured, in words and pictures
  bundle FILE … OUT.zip [--chain CHAIN.json] [--target TARGET.json]
                                   a session of these files with a track each, to be brought in anywhere; what is in it as JSON on stdout
  unbundle BUNDLE.zip FOLDER       checks a bundle to its last byte; sources, sessions and profiles into an empty folder
  profile IN OUT.json --noise START-END|auto [--chain CHAIN.json] [--channels 1,2]
                                   takes a noise profile, as it comes to the noise reduction of the chain
  line-up FIRST SECOND             when SECOND begins on the time of FIRST, by what both hear; drift, polarity, certainty;
                                   JSON on stdout, null where they share too little
  balance SPEECH … OUT [--bed MUSIC] [--loudness LUFS] [--under LU] [--alone LU] [--ceiling DBTP]
                                   a mix of aligned files: every speech at that loudness (-16), a bed so far under it while somebody
                                   speaks (15) and while nobody does (6), nothing over the ceiling (-1); what was done as JSON on
                                   stdout
  treatments                       the treatments and their parameters; JSON on stdout`;
