<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

/**
 * What a server says of itself at one moment.
 */
final readonly class ServerState
{
    /**
     * @param  int  $startedUs when it was started, by its own clock, to the second
     * @param  array<string, float>  $values counters since then and what is so much now, by the names of the server in small letters
     * @param  array<int, string>  $waiting statements that wait for a row lock, by session
     */
    public function __construct(public int $startedUs, public int $atUs, public array $values, public array $waiting = [])
    {
    }
}
