/** What a file chooser offers where sound is asked for. */
export const ACCEPT = "audio/*,.wav,.flac,.mp3,.m4a,.aac,.ogg,.opus,.aif,.aiff";
