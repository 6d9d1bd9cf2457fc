<?php

declare(strict_types=1);

namespace Fulcrion\Core\Usage;

/**
 * How the use of one subject differs between two periods, in parts that add up to the difference to the last unit.
 */
final readonly class UsageChange
{
    private function __construct(
        /** Of a team, a person, an application or a statement. */
        public string $key,
        public Used $before,
        public Used $after,
        /** Was not there before. */
        public int $new,
        /** Is not there any more. */
        public int $gone,
        /** As many executions more, each of the use it had. */
        public int $moreExecutions,
        /** As much more for each execution there is now. */
        public int $moreEach,
    ) {
    }

    public static function of(string $key, ?Used $before, ?Used $after): self
    {
        $before ??= new Used(0, 0);
        $after ??= new Used(0, 0);
        $change = $after->amount - $before->amount;
        if ($before->isNothing()) {
            return new self($key, $before, $after, $change, 0, 0, 0);
        }
        if ($after->isNothing()) {
            return new self($key, $before, $after, 0, $change, 0, 0);
        }
        // What the executions that were more would have used as they were; the rest is what each uses otherwise. Use without an
        // execution that began (one that reaches over from the day before) cannot be told by executions.
        $more = $before->executions === 0 ? 0
            : (int) round($before->amount * (($after->executions - $before->executions) / $before->executions));

        return new self($key, $before, $after, 0, 0, $more, $change - $more);
    }

    public function change(): int
    {
        return $this->new + $this->gone + $this->moreExecutions + $this->moreEach;
    }

    /** Times what it was; null where it was nothing. */
    public function factor(): ?float
    {
        return $this->before->amount === 0 ? null : $this->after->amount / $this->before->amount;
    }
}
