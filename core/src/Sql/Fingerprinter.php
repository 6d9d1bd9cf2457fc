<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

/**
 * Gives each text its statement: the normalised text and its 128-bit fingerprint (xxh128, 32 hexadecimal digits).
 *
 * Remembers what it saw under a cheap key. The key replaces plain quoted strings and free-standing numbers only, and is
 * used only for texts without any mark that could make such a piece mean something else; equal keys therefore have
 * equal fingerprints.
 */
final class Fingerprinter
{
    private const PLAIN_LITERAL = "~'[^']*+'|(?<![\\w.:@?\\x80-\\xff])\\d++(?:\\.\\d++)?+(?![\\w.\\x80-\\xff])~";

    private readonly Normaliser $normaliser;

    /** @var array<string, Fingerprint> */
    private array $known = [];

    public function __construct(Dialect $dialect = Dialect::Ansi, private readonly int $memory = 10_000)
    {
        $this->normaliser = new Normaliser($dialect);
    }

    public function of(string $sql): Fingerprint
    {
        $key = $sql;
        if (
            strpbrk($sql, '"`[#$\\{%') === false &&
            ! str_contains($sql, '--') &&
            ! str_contains($sql, '/*') &&
            substr_count($sql, "'") % 2 === 0
        ) {
            $key = preg_replace(self::PLAIN_LITERAL, '?', $sql) ?? $sql;
        }
        if (strlen($key) > 4096) {
            return $this->compute($sql);
        }
        if (isset($this->known[$key])) {
            return $this->known[$key];
        }
        if (count($this->known) >= $this->memory) {
            $this->known = array_slice($this->known, intdiv($this->memory, 2), null, true);
        }

        return $this->known[$key] = $this->compute($sql);
    }

    public function compute(string $sql): Fingerprint
    {
        $text = $this->normaliser->normalise(LongText::shortened($sql));

        return new Fingerprint(hash('xxh128', $text), $text);
    }
}
