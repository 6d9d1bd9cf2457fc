<?php

declare(strict_types=1);

namespace Fulcrion\Core\Usage;

/**
 * From the use of one period to that of another, subject by subject.
 */
final readonly class UsageBridge
{
    /**
     * @param  list<UsageChange>  $changes what changed most first, whichever way; those alike by their keys
     */
    private function __construct(public array $changes, public Used $before, public Used $after)
    {
    }

    /**
     * @param  array<array-key, Used>  $before by subject
     * @param  array<array-key, Used>  $after
     */
    public static function of(array $before, array $after): self
    {
        $changes = [];
        [$from, $to] = [new Used(0, 0), new Used(0, 0)];
        foreach ($before + $after as $key => $_) {
            $changes[] = UsageChange::of((string) $key, $before[$key] ?? null, $after[$key] ?? null);
            $from = $from->plus($before[$key] ?? new Used(0, 0));
            $to = $to->plus($after[$key] ?? new Used(0, 0));
        }
        usort($changes, static fn (UsageChange $a, UsageChange $b): int => [abs($b->change()), $a->key] <=> [abs($a->change()), $b->key]);

        return new self($changes, $from, $to);
    }

    public function change(): int
    {
        return $this->after->amount - $this->before->amount;
    }

    /**
     * @return array{new: int, gone: int, moreExecutions: int, moreEach: int} of all subjects; together they are the change
     */
    public function parts(): array
    {
        $parts = ['new' => 0, 'gone' => 0, 'moreExecutions' => 0, 'moreEach' => 0];
        foreach ($this->changes as $one) {
            $parts['new'] += $one->new;
            $parts['gone'] += $one->gone;
            $parts['moreExecutions'] += $one->moreExecutions;
            $parts['moreEach'] += $one->moreEach;
        }

        return $parts;
    }

    /**
     * The few that changed most, and what all others changed together.
     *
     * @return array{list<UsageChange>, int}
     */
    public function foremost(int $count): array
    {
        $rest = array_sum(array_map(static fn (UsageChange $one): int => $one->change(), array_slice($this->changes, $count)));

        return [array_slice($this->changes, 0, $count), $rest];
    }
}
