<?php

declare(strict_types=1);

namespace Fulcrion\Core\Profiling;

/**
 * Reads profiles line by line: folded stacks (frames with semicolons between them, a space, a number), and what perf script prints
 * (perf-script(1): a line of the process, a line a frame from the innermost, an empty line).
 */
final class StackReader
{
    private const HEADER = '~^(\S.*?)\s+(?:\d+/)?\d+\s+(?:\[\d+\]\s+)?\d+\.\d+:\s+(?:(\d+)\s+)?\S+:~';

    private const FRAME = '~^\s+[0-9a-f]+ (.+?)(?:\+0x[0-9a-f]+)?(?: \(([^()]*)\))?\s*$~';

    private const LONGEST = 200;

    private const COMPLAINTS = 10;

    private ?string $process = null;

    /** @var list<string> innermost first */
    private array $frames = [];

    private int $line = 0;

    private int $refused = 0;

    /** @var list<string> */
    private array $complaints = [];

    public function __construct(private readonly StackTree $tree)
    {
    }

    /** A line as it stands in the file, with its end or without. */
    public function line(string $line): void
    {
        $this->line++;
        $line = rtrim($line, "\r\n");
        if ($this->process !== null) {
            $this->inside($line);

            return;
        }
        if (trim($line) === '' || $line[0] === '#') {
            return;
        }
        if (preg_match(self::HEADER, $line, $match) === 1) {
            $this->process = $match[1];

            return;
        }
        $space = strrpos($line, ' ');
        $number = $space === false ? '' : substr($line, $space + 1);
        if ($space === false || $space === 0 || ! is_numeric($number) || (float) $number <= 0.0 || ! is_finite((float) $number)) {
            $this->refuse();

            return;
        }
        $this->tree->add(array_map(self::name(...), explode(';', substr($line, 0, $space), StackTree::MOST_DEPTH + 2)), (float) $number);
    }

    /** The last stack may have no empty line behind it. */
    public function end(): void
    {
        if ($this->process !== null) {
            $this->tree->add([self::name($this->process), ...array_reverse($this->frames)], 1.0);
        }
        $this->process = null;
        $this->frames = [];
    }

    /** Lines that could not be read. */
    public function refused(): int
    {
        return $this->refused;
    }

    /**
     * @return list<string> each with its line
     */
    public function complaints(): array
    {
        return $this->complaints;
    }

    private function inside(string $line): void
    {
        if (trim($line) === '') {
            $this->end();
        } elseif (preg_match(self::FRAME, $line, $match) === 1) {
            $this->frames[] = self::name($match[1] === '[unknown]' && isset($match[2]) ? "[{$match[2]}]" : $match[1]);
        } elseif (preg_match(self::HEADER, $line) === 1) {
            // A stack of no frames before it.
            $this->end();
            $this->line--;
            $this->line($line);
        } else {
            $this->refuse();
        }
    }

    private function refuse(): void
    {
        $this->refused++;
        if (count($this->complaints) < self::COMPLAINTS) {
            $this->complaints[] = "Line {$this->line}: it is no stack with a number behind it, and no line of perf script.";
        }
    }

    private static function name(string $frame): string
    {
        $frame = str_replace(';', ':', trim($frame));

        return $frame === '' ? '?' : (strlen($frame) > self::LONGEST ? mb_strcut($frame, 0, self::LONGEST) : $frame);
    }
}
