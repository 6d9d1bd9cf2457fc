<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sessions;

/**
 * A session, and those that cannot go on before it does.
 */
final readonly class LockChain
{
    /**
     * @param  LockWait|null  $wait for what it waits itself; null for one that waits for nobody
     * @param  list<self>  $behind longest waiting first
     * @param  bool  $circular whether it waits, over others, for itself
     */
    public function __construct(public int $session, public ?LockWait $wait, public array $behind, public bool $circular = false)
    {
    }

    /**
     * @return list<int> everybody behind it
     */
    public function blocked(): array
    {
        return array_merge(
            [],
            ...array_map(static fn (self $one): array => [$one->session, ...$one->blocked()], $this->behind),
        );
    }

    /** Time all behind it have waited so far, summed. */
    public function waitedUs(): int
    {
        return array_sum(array_map(
            static fn (self $one): int => ($one->wait->waitedUs ?? 0) + $one->waitedUs(),
            $this->behind,
        ));
    }

    /** How many stand one behind the other. */
    public function depth(): int
    {
        return max([0, ...array_map(static fn (self $one): int => 1 + $one->depth(), $this->behind)]);
    }

    /**
     * @return list<string> tables that are waited for, most waited for first
     */
    public function tables(): array
    {
        $counts = [];
        foreach ($this->behind as $one) {
            foreach ([$one->wait->table ?? '', ...$one->tables()] as $table) {
                $counts[$table] = ($counts[$table] ?? 0) + ($table === '' ? 0 : 1);
            }
        }
        arsort($counts);

        return array_map(strval(...), array_keys(array_filter($counts, static fn (int $count): bool => $count > 0)));
    }
}
