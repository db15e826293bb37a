"""Messages as broken as real ones: each a name and its bytes."""

NASTY: dict[str, bytes] = {
    "no header at all": b"just some text\nwithout any header\n",
    "empty header block": b"\n\nbody only\n",
    "binary": bytes(range(256)) * 8,
    "nul bytes": b"From: a@b.example\nSubject: nul\x00here\n\nbody\x00with nul\n",
    "8-bit headers": "From: Aurélie <a@b.example>\nSubject: Réunion à midi\n\nça va\n".encode("latin-1"),
    "raw utf-8 headers": "From: Aurélie <a@b.example>\nSubject: Réunion à midi ☂\n\nça va\n".encode(),
    "broken date": b"From: a@b.example\nDate: Thirsday, 45 Foo 2020 99:99\nSubject: x\n\nx\n",
    "date from Received": b"Received: from m by n; Tue, 04 Nov 2025 10:00:00 +0100\nFrom: a@b.example\nSubject: x\n\nx\n",
    "date far in the future": b"Received: from m by n; Tue, 04 Nov 2025 10:00:00 +0100\nDate: Fri, 1 Jan 2077 00:00:00 +0000\n"
    b"From: a@b.example\n\nx\n",
    "zone out of range": b"From: a@b.example\nDate: Sun, 27 May 2001 12:39:01 -9959\n\nx\n",
    "folded address with line break": b"From: =?utf-8?q?A=0AB?= <a@b.example>,\n\t<c@d.example>\nTo: undisclosed-recipients:;\n\nx\n",
    "unknown charset": b"From: a@b.example\nContent-Type: text/plain; charset=klingon-7\n\nhello\xe9\n",
    "charset none": b'From: a@b.example\nContent-Type: text/plain; charset="none"\n\nhello\n',
    "charset with nul": b'From: a@b.example\nContent-Type: text/plain; charset="utf\x00-8"\n\nhello\n',
    "base64 with junk": b"From: a@b.example\nContent-Transfer-Encoding: base64\n\naGVs***bG8\ngarbage!!\n",
    "quoted-printable cut": b"From: a@b.example\nContent-Transfer-Encoding: quoted-printable\n\nhello=\n=E\n=",
    "uuencode broken": b"From: a@b.example\nContent-Transfer-Encoding: x-uuencode\n\nbegin 644 x\n!!!\nend\n",
    "unknown transfer encoding": b"From: a@b.example\nContent-Transfer-Encoding: 9bit\n\nhello\n",
    "missing boundary": b"From: a@b.example\nContent-Type: multipart/mixed\n\n--x\n\nhello\n--x--\n",
    "unclosed boundary": b'From: a@b.example\nContent-Type: multipart/mixed; boundary="x"\n\n--x\n\nhello\n',
    "boundary of 3000": b"From: a@b.example\nContent-Type: multipart/mixed; boundary=" + b"x" * 3000 + b"\n\nhello\n",
    "nested too deep": b"From: a@b.example\n"
    + b"".join(b"Content-Type: multipart/mixed; boundary=b%d\n\n--b%d\n" % (n, n) for n in range(300))
    + b"\nhello\n",
    "message in message": b"From: a@b.example\nContent-Type: message/rfc822\n\nFrom: c@d.example\nSubject: inner\n\nhello\n",
    "encoded words wrong": b"From: a@b.example\nSubject: =?utf-8?b?###?= =?x?q?=ZZ?= =?utf-8?q?=C3?= =?utf-8?q?=A9?=\n\nx\n",
    "rfc 2231 name": b"From: a@b.example\nContent-Type: application/pdf; name*0*=utf-8''r%C3%A9; name*1*=sum%C3%A9.pdf\n\nx\n",
    "path in file name": b'From: a@b.example\nContent-Disposition: attachment; filename="../../etc/passwd"\n\nx\n',
    "duplicate headers": b"From: a@b.example\nFrom: c@d.example\nSubject: one\nSubject: two\n\nx\n",
    "header without colon": b"From: a@b.example\nthis is no header\nSubject: lost\n\nx\n",
    "only carriage returns": b"From: a@b.example\rSubject: cr\r\rbody\r",
    "very long header": b"From: a@b.example\nSubject: " + b"word " * 60_000 + b"\n\nx\n",
    "thousand recipients": b"From: a@b.example\nTo: "
    + b", ".join(b"u%d@x.example" % n for n in range(1500))
    + b"\n\nx\n",
    "group syntax": b"From: a@b.example\nTo: Friends: a@x.example, b@y.example;\n\nx\n",
    "address without at": b"From: root\nTo: <>\n\nx\n",
    "html only": b"From: a@b.example\nContent-Type: text/html\n\n<p>Hello <b>you</b><script>bad()</script></p>\n",
    "html without end": b"From: a@b.example\nContent-Type: text/html\n\n<table><tr><td>" + b"<div>" * 4000 + b"deep\n",
    "calendar": b"From: a@b.example\nContent-Type: text/calendar; method=REQUEST\n\nBEGIN:VCALENDAR\nEND:VCALENDAR\n",
    "right to left": "From: a@b.example\nSubject: =?utf-8?b?16nXnNeV150=?=\n\nשלום\n".encode(),
}
