<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sessions;

/**
 * A lock on the definition of a table (a metadata lock), which every statement takes and every ALTER needs for itself.
 */
final readonly class DefinitionLock
{
    public function __construct(
        public int $session,
        /** schema.table */
        public string $table,
        /** As the server names it, such as SHARED_READ or EXCLUSIVE. */
        public string $mode,
        public bool $granted,
        /** How long its session has been at its statement. */
        public int $sinceUs,
    ) {
    }

    /**
     * Who waits for whom. Who wants a table for itself waits for everybody who has it; who only wants to use it waits for
     * who has it for itself, or wants that and came before.
     *
     * @param  list<self>  $locks
     * @return list<LockWait>
     */
    public static function waits(array $locks): array
    {
        $waits = [];
        foreach ($locks as $one) {
            foreach ($one->granted ? [] : $locks as $other) {
                if ($other->session !== $one->session && $other->table === $one->table && $one->waitsFor($other)) {
                    $waits[] = new LockWait($one->session, $other->session, $one->table, 'the definition', $one->sinceUs);
                }
            }
        }

        return $waits;
    }

    private function waitsFor(self $other): bool
    {
        if ($this->isExclusive()) {
            return $other->granted;
        }

        return $other->isExclusive() && ($other->granted || $other->sinceUs >= $this->sinceUs);
    }

    private function isExclusive(): bool
    {
        return in_array($this->mode, ['EXCLUSIVE', 'SHARED_NO_READ_WRITE', 'SHARED_NO_WRITE'], true);
    }
}
