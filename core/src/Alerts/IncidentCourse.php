<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

/**
 * How an incident goes on: which rings belong to it, when it is worth another word, and when it is over. What began within ten minutes on
 * one cluster has one cause, as far as anybody can know by then, however long each alert waits before it rings.
 */
final readonly class IncidentCourse
{
    /** What began within so many seconds of the last ring that came belongs to it. */
    public const TOGETHER = 600;

    /** It is over when nothing has rung for so long: what rings again until then goes on. */
    public const SETTLES = 900;

    /** Another word is worth while when it is so many times as large as told. */
    private const GROWN = 2;

    /** And not sooner than so long after the last word. */
    private const PATIENCE = 900;

    /**
     * @param  int  $lastAt second in which what rang last had begun
     * @param  array<string, true>  $rings all that rang, alert and host
     * @param  array<string, true>  $ringing those that ring now
     * @param  int|null  $quietSince second since which nothing rings; null where something does
     * @param  int  $told how many rings the last word told of
     */
    public function __construct(
        public int $openedAt,
        public int $lastAt,
        public array $rings,
        public array $ringing,
        public ?int $quietSince,
        public int $told,
        public int $toldAt,
    ) {
    }

    public static function opened(string $alert, string $host, int $from, int $at): self
    {
        $key = self::key($alert, $host);

        return new self($at, $from, [$key => true], [$key => true], null, 1, $at);
    }

    /**
     * Whether a ring belongs to it.
     *
     * @param  int  $from second in which it began
     * @param  int  $at second in which it rang
     */
    public function takes(string $alert, int $from, int $at): bool
    {
        if ($this->isOver($at)) {
            return false;
        }
        foreach (array_keys($this->rings) as $key) {
            // The same alert, on whatever host.
            if (str_starts_with($key, "{$alert}\0")) {
                return true;
            }
        }

        return abs($from - $this->lastAt) <= self::TOGETHER;
    }

    public function rang(string $alert, string $host, int $from): self
    {
        $key = self::key($alert, $host);
        $isNew = ! isset($this->rings[$key]);

        return new self($this->openedAt, $isNew ? max($this->lastAt, $from) : $this->lastAt, $this->rings + [$key => true],
            $this->ringing + [$key => true], null, $this->told, $this->toldAt);
    }

    public function ended(string $alert, string $host, int $at): self
    {
        $ringing = array_diff_key($this->ringing, [self::key($alert, $host) => true]);

        return new self($this->openedAt, $this->lastAt, $this->rings, $ringing,
            $ringing === [] ? $this->quietSince ?? $at : null, $this->told, $this->toldAt);
    }

    /** The same, calm since a second that is known better; null where something rings. */
    public function calmSince(?int $second): self
    {
        return new self($this->openedAt, $this->lastAt, $this->rings, $this->ringing, $second, $this->told, $this->toldAt);
    }

    public function isGrown(int $at): bool
    {
        return count($this->rings) >= self::GROWN * $this->told && $at - $this->toldAt >= self::PATIENCE;
    }

    public function told(int $at): self
    {
        return new self($this->openedAt, $this->lastAt, $this->rings, $this->ringing, $this->quietSince, count($this->rings), $at);
    }

    public function isOver(int $at): bool
    {
        return $this->quietSince !== null && $at - $this->quietSince >= self::SETTLES;
    }

    private static function key(string $alert, string $host): string
    {
        return "{$alert}\0{$host}";
    }
}
