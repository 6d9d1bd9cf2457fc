<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

/**
 * What is known of a complaint. Times are times as much as usual; null is what is not known, or does not apply.
 */
final readonly class Complaint
{
    private const SLOW = 1.5;

    /** A system whose probe takes this many times its idle time struggles. */
    private const STRUGGLES = 2.0;

    /** Of what a statement took: more than a half of it. */
    private const MOSTLY = 0.5;

    /** What explains so much of how much slower it was, as a part of its logarithm, is the reason. */
    private const EXPLAINS = 0.5;

    private const MORE_READ = 1.5;

    private const SLOW_HOST = 1.2;

    /**
     * @param  float|null  $took what the statement took in all
     * @param  float|null  $ran the same without waiting in a queue
     * @param  float|null  $waited part of its time it waited in a queue
     * @param  float|null  $locked part of its time it waited for locks
     * @param  float|null  $read bytes a run
     * @param  bool  $hasOtherPlan than it had
     * @param  float|null  $probe times as long as when idle
     * @param  float|null  $host what the slowest host takes beside its neighbours
     */
    public function __construct(
        public ?float $took = null,
        public ?float $ran = null,
        public ?float $waited = null,
        public ?float $locked = null,
        public ?float $read = null,
        public bool $hasOtherPlan = false,
        public ?float $probe = null,
        public ?float $host = null,
    ) {
    }

    public function struggles(): bool
    {
        return $this->probe !== null && $this->probe >= self::STRUGGLES;
    }

    public function isSlowHost(): bool
    {
        return $this->host !== null && $this->host >= self::SLOW_HOST;
    }

    /** The one reason that explains most of it. */
    public function verdict(): Verdict
    {
        if ($this->took === null) {
            return $this->ofTheSystem();
        }
        if ($this->took < self::SLOW) {
            return Verdict::Nothing;
        }
        $all = log($this->took);
        $bySystem = $this->struggles() ? log($this->probe ?? 1.0) : 0.0;
        $byReading = $this->read !== null && $this->read >= self::MORE_READ ? log($this->read) : 0.0;
        $running = log(max(1.0, $this->ran ?? $this->took));

        return match (true) {
            $bySystem >= self::EXPLAINS * $all && $bySystem >= $byReading => Verdict::System,
            $this->waited !== null && $this->waited >= self::MOSTLY => Verdict::Queue,
            $this->locked !== null && $this->locked >= self::MOSTLY => Verdict::Lock,
            $byReading > 0.0 && $byReading >= self::EXPLAINS * $running => Verdict::Statement,
            $this->hasOtherPlan => Verdict::Statement,
            // All of a statement that reads from its disk is as slow as that host, and no more.
            $this->isSlowHost() && $running <= log(self::SLOW * ($this->host ?? 1.0)) => Verdict::Host,
            $this->struggles() => Verdict::System,
            default => Verdict::Statement,
        };
    }

    private function ofTheSystem(): Verdict
    {
        return match (true) {
            $this->struggles() => Verdict::System,
            $this->waited !== null && $this->waited >= self::MOSTLY => Verdict::Queue,
            $this->isSlowHost() => Verdict::Host,
            $this->probe === null => Verdict::Unknown,
            default => Verdict::Nothing,
        };
    }
}
