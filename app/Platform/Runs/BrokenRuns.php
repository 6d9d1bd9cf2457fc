<?php

declare(strict_types=1);

namespace App\Platform\Runs;

use Closure;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;

/**
 * Runs whose process was killed, of whatever kind: each capability says what then becomes of its own.
 */
final class BrokenRuns
{
    /** @var list<array{Closure(): Builder<covariant Model>, Closure(mixed): string}> */
    private array $kinds = [];

    /**
     * @template T of Model&BackgroundRun
     *
     * @param  Closure(): Builder<T>  $atWork at least those a process should be at
     * @param  Closure(T): string  $end takes one up again or ends it, and says what it did
     */
    public function register(Closure $atWork, Closure $end): void
    {
        $this->kinds[] = [$atWork, $end];
    }

    /**
     * Runs that end where their process was killed.
     *
     * @param  class-string<Model&BackgroundRun>  $class
     */
    public function ends(string $class): void
    {
        $this->kinds[] = [
            static fn (): Builder => $class::query()->where('state', 'running'),
            static fn (BackgroundRun $run): string => $run->broke(),
        ];
    }

    /**
     * @param  bool  $all also those that still show signs of life
     * @return iterable<string> what was done
     */
    public function recover(bool $all = false): iterable
    {
        foreach ($this->kinds as [$atWork, $end]) {
            foreach ($atWork()->get() as $run) {
                if ($run instanceof BackgroundRun && ($all || $run->isSilent())) {
                    yield $end($run);
                }
            }
        }
    }
}
