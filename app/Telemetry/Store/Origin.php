<?php

declare(strict_types=1);

namespace App\Telemetry\Store;

use Fulcrion\Core\Telemetry\Execution;

/**
 * Where executions come from: database, user, application and client host together.
 */
final readonly class Origin
{
    public string $digest;

    public function __construct(
        public string $database = '',
        public string $user = '',
        public string $application = '',
        public string $clientHost = '',
        public string $queue = '',
    ) {
        // One without a queue is the same as before queues were kept.
        $ofQueue = $queue === '' ? '' : "\0{$queue}";
        $this->digest = hash('xxh3', "{$database}\0{$user}\0{$application}\0{$clientHost}{$ofQueue}");
    }

    public static function of(Execution $execution): self
    {
        return new self(
            mb_scrub($execution->origin->database, 'UTF-8'),
            mb_scrub($execution->origin->user, 'UTF-8'),
            mb_scrub($execution->origin->application, 'UTF-8'),
            mb_scrub($execution->origin->clientHost, 'UTF-8'),
            mb_scrub($execution->origin->queue ?? '', 'UTF-8'),
        );
    }
}
