/** What stands in a file that this program made, with its samples (https://www.sqlite.org/pragma.html#pragma_application_id): “kinT”. */
export const MADE_HERE = 0x6b696e54;
