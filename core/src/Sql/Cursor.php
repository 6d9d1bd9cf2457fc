<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

/**
 * The meaningful tokens of a text and a place among them. Open to the parsers of this folder, which look at the
 * arrays themselves: a call for every look would take most of the time of parsing.
 *
 * @internal
 */
final class Cursor
{
    private const DEEPEST = 400;

    /** @var list<string> value of TokenKind; 'z' behind the last */
    public array $kinds = [];

    /** @var list<string> as written */
    public array $texts = [];

    /** @var list<string> words in capitals, operators as they are, '' for names, literals and parameters */
    public array $words = [];

    /** @var list<int> offset of the first byte */
    public array $offsets = [];

    /** Moved by whoever reads on. */
    public int $i = 0;

    private int $depth = 0;

    public function __construct(public readonly string $sql, Lexer $lexer)
    {
        $offset = 0;
        foreach ($lexer->pieces($sql) as [$kind, $text]) {
            if ($kind !== 's' && $kind !== 'c' && $kind !== 'h') {
                $this->kinds[] = $kind;
                $this->texts[] = $text;
                $this->words[] = $kind === 'w' ? strtoupper($text) : ($kind === 'o' ? $text : '');
                $this->offsets[] = $offset;
            }
            $offset += strlen($text);
        }
        $this->kinds[] = 'z';
        $this->texts[] = '';
        $this->words[] = "\0";
        $this->offsets[] = strlen(rtrim($sql));
    }

    public function at(): int
    {
        return $this->offsets[$this->i];
    }

    public function is(string $word): bool
    {
        return $this->words[$this->i] === $word;
    }

    public function follows(string $first, string $second): bool
    {
        return $this->words[$this->i] === $first && $this->words[$this->i + 1] === $second;
    }

    public function take(string $word): bool
    {
        if ($this->words[$this->i] === $word) {
            $this->i++;

            return true;
        }

        return false;
    }

    /**
     * @throws SyntaxError
     */
    public function expect(string $word, string $where = ''): void
    {
        if ($this->words[$this->i] !== $word) {
            throw $this->expected(ctype_alpha($word[0]) ? $word : "\"{$word}\"", $where);
        }
        $this->i++;
    }

    public function expected(string $what, string $where = ''): SyntaxError
    {
        $found = $this->kinds[$this->i] === 'z' ? 'the end' : '"'.mb_strimwidth($this->texts[$this->i], 0, 40, '…').'"';

        return SyntaxError::at(
            $this->sql,
            $this->offsets[$this->i],
            "expected {$what}".($where === '' ? '' : " {$where}").", found {$found}",
        );
    }

    public function refuse(string $problem, ?int $offset = null): SyntaxError
    {
        return SyntaxError::at($this->sql, $offset ?? $this->offsets[$this->i], $problem);
    }

    /**
     * @throws SyntaxError
     */
    public function enter(): void
    {
        if (++$this->depth > self::DEEPEST) {
            throw $this->refuse('the expression is nested more than '.self::DEEPEST.' levels deep');
        }
    }

    public function leave(): void
    {
        $this->depth--;
    }

    /**
     * A name: a word that is not reserved here, or a quoted name.
     *
     * @throws SyntaxError
     */
    public function name(string $what): string
    {
        $kind = $this->kinds[$this->i];
        if ($kind === 'q') {
            $text = $this->texts[$this->i++];
            $quote = $text[0];

            return $quote === '[' ? substr($text, 1, -1) : str_replace($quote.$quote, $quote, substr($text, 1, -1));
        }
        if ($kind === 'w' && ! isset(Reserved::WORDS[$this->words[$this->i]])) {
            return $this->texts[$this->i++];
        }
        throw $this->expected($what, $kind === 'w' ? '(reserved words need quotes)' : '');
    }

    /**
     * @return non-empty-list<string>
     *
     * @throws SyntaxError
     */
    public function path(string $what): array
    {
        $parts = [$this->name($what)];
        while ($this->words[$this->i] === '.') {
            $this->i++;
            $parts[] = $this->partName($what);
        }

        return $parts;
    }

    /**
     * A name behind a dot, where reserved words need no quotes.
     *
     * @throws SyntaxError
     */
    public function partName(string $what): string
    {
        return $this->kinds[$this->i] === 'w' ? $this->texts[$this->i++] : $this->name($what);
    }

    /**
     * @return list<string>
     *
     * @throws SyntaxError
     */
    public function namesInBrackets(string $what): array
    {
        $names = [];
        $this->expect('(');
        do {
            $names[] = $this->name($what);
        } while ($this->take(','));
        $this->expect(')');

        return $names;
    }

    /**
     * @throws SyntaxError
     */
    public function text(string $what): string
    {
        if ($this->kinds[$this->i] !== 't') {
            throw $this->expected($what);
        }

        return self::unquote($this->texts[$this->i++]);
    }

    public static function unquote(string $text): string
    {
        if ($text[0] === "'") {
            return str_replace("''", "'", substr($text, 1, -1));
        }
        if ($text[0] === '$') {
            $mark = strlen((string) strstr(substr($text, 1), '$', true)) + 2;

            return substr($text, $mark, -$mark);
        }
        $open = (int) strpos($text, "'");
        $inner = str_replace("''", "'", substr($text, $open + 1, -1));

        return $text[0] === 'e' || $text[0] === 'E' ? stripcslashes($inner) : $inner;
    }
}
