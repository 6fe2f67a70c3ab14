// Takes the effect of the probes out of the text of a function in which they cannot be found
// by their places: it runs anywhere, and counts nothing. It needs nothing around it, since
// browsers get it as text.
"use strict";

module.exports = (text) =>
	text
		.replace(/_thrush[0-9a-f]{8}\s*\|\|\s*_thrush[0-9a-f]{8}s\(\);?/g, "")
		.replace(/_thrush[0-9a-f]{8}\[[^\]]*\]\s*(\+\+|=\s*1)/g, "0")
		.replace(/_thrush[0-9a-f]{8}v/g, "globalThis.$&");
