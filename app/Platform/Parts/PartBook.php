<?php

declare(strict_types=1);

namespace App\Platform\Parts;

use Closure;
use Illuminate\Support\Facades\Log;
use Throwable;

/**
 * The parts the application consists of: each capability registers how it is with its own. One that cannot tell is not known, and stops no
 * other.
 */
final class PartBook
{
    /** @var array<string, Closure(): OwnPart> */
    private array $checks = [];

    /**
     * @param  string  $name in one word or two
     * @param  Closure(): OwnPart  $check
     */
    public function register(string $name, Closure $check): void
    {
        $this->checks[$name] = $check;
    }

    /**
     * @return array<string, OwnPart> by name
     */
    public function all(): array
    {
        $parts = [];
        foreach ($this->checks as $name => $check) {
            try {
                $parts[$name] = $check();
            } catch (Throwable $error) {
                Log::warning("How {$name} is cannot be told", ['exception' => $error]);
                $parts[$name] = new OwnPart('no data', 'It cannot be told: the log says why.');
            }
        }

        return $parts;
    }

    /**
     * @param  array<string, OwnPart>  $parts
     */
    public static function worst(array $parts): string
    {
        $marks = array_map(static fn (OwnPart $part): string => $part->mark, $parts);
        foreach (['act', 'no data', 'watch'] as $mark) {
            if (in_array($mark, $marks, true)) {
                return $mark;
            }
        }

        return 'calm';
    }
}
