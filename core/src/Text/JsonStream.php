<?php

declare(strict_types=1);

namespace Fulcrion\Core\Text;

use Closure;
use Generator;

/**
 * Reads JSON piece by piece, so that a file with long lists in it never has to lie in memory: values at chosen places are
 * given out one by one. A file may hold several documents one behind the other, a line each or not.
 */
final class JsonStream
{
    /** No single value may be longer. */
    private const MOST = 16_777_216;

    private const VALUE = '~\G(?:(?<object>\{(?:[^{}\[\]"]++|"(?:[^"\\\\]++|\\\\.)*+"|(?&list)|(?&object))*+\})|(?<list>\[(?:[^{}\[\]"]++'
        .'|"(?:[^"\\\\]++|\\\\.)*+"|(?&list)|(?&object))*+\])|"(?:[^"\\\\]++|\\\\.)*+"|[-+0-9.eE]++|true|false|null)~s';

    private string $buffer = '';

    private int $at = 0;

    private bool $ended = false;

    private int $linesBehind = 1;

    /**
     * @param  Closure(): string  $read the next piece of the text; empty at its end
     * @param  list<string>  $open places whose members or items are given out one by one, as "", "tasks",
     *     "groups[]" or "groups[].tasks"; all above an open place are open
     */
    public function __construct(private readonly Closure $read, private readonly array $open)
    {
    }

    /**
     * @return Generator<string, mixed> place and decoded value
     *
     * @throws JsonError
     */
    public function values(): Generator
    {
        while ($this->peek() !== '') {
            yield from $this->value('', 0);
        }
    }

    /** Line the reader is at. */
    public function line(): int
    {
        return $this->linesBehind + substr_count($this->buffer, "\n", 0, $this->at);
    }

    /**
     * @return Generator<string, mixed>
     *
     * @throws JsonError
     */
    private function value(string $place, int $depth): Generator
    {
        $next = $this->peek();
        if (($next !== '{' && $next !== '[') || ! in_array($place, $this->open, true)) {
            yield $place => $this->whole();

            return;
        }
        $this->at++;
        $close = $next === '{' ? '}' : ']';
        for ($i = 0; $this->peek() !== $close; $i++) {
            if ($i > 0) {
                $this->expect(',');
            }
            if ($close === ']') {
                yield from $this->value("{$place}[]", $depth + 1);

                continue;
            }
            $this->peek();
            $key = $this->whole();
            if (! is_string($key)) {
                throw new JsonError('a name in quotes was expected', $this->line());
            }
            $this->expect(':');
            yield from $this->value($place === '' ? $key : "{$place}.{$key}", $depth + 1);
        }
        $this->at++;
    }

    /**
     * @throws JsonError
     */
    private function expect(string $character): void
    {
        $found = $this->peek();
        if ($found !== $character) {
            throw new JsonError(
                $found === ''
                    ? "the text ends where \"{$character}\" was expected"
                    : "\"{$character}\" was expected, not \"".mb_strcut($found, 0, 4).'"',
                $this->line(),
            );
        }
        $this->at++;
    }

    /** The next character that is no space; empty at the end. */
    private function peek(): string
    {
        while (true) {
            $this->at += strspn($this->buffer, " \t\r\n", $this->at);
            if ($this->at < strlen($this->buffer)) {
                return $this->buffer[$this->at];
            }
            if (! $this->more()) {
                return '';
            }
        }
    }

    /**
     * @throws JsonError
     */
    private function whole(): mixed
    {
        while (true) {
            // What ends with the buffer may go on in the next piece.
            if (
                preg_match(self::VALUE, $this->buffer, $match, 0, $this->at) === 1 &&
                ($this->at + strlen($match[0]) < strlen($this->buffer) || $this->ended || in_array($match[0][-1], ['}', ']', '"'], true))
            ) {
                $line = $this->line();
                $this->at += strlen($match[0]);
                $value = json_decode($match[0], true, 128, JSON_BIGINT_AS_STRING);
                if ($value === null && $match[0] !== 'null') {
                    throw new JsonError('is no JSON: '.mb_strcut($match[0], 0, 60), $line);
                }

                return $value;
            }
            if (strlen($this->buffer) - $this->at > self::MOST) {
                throw new JsonError('a single value is longer than 16 MiB', $this->line());
            }
            // A number may end with the text: once that is known, it is looked at again.
            $wasEnded = $this->ended;
            if (! $this->more() && $wasEnded) {
                throw new JsonError(
                    $this->at >= strlen($this->buffer)
                        ? 'the text ends in the middle'
                        : 'is no JSON, or ends in the middle: '.mb_strcut(substr($this->buffer, $this->at), 0, 60),
                    $this->line(),
                );
            }
        }
    }

    private function more(): bool
    {
        if ($this->ended) {
            return false;
        }
        $piece = ($this->read)();
        $this->ended = $piece === '';
        if ($this->at > 0) {
            $this->linesBehind = $this->line();
            $this->buffer = substr($this->buffer, $this->at);
            $this->at = 0;
        }
        $this->buffer .= $piece;

        return ! $this->ended;
    }
}
