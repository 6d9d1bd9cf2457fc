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
    ) {
        $this->digest = hash('xxh3', "{$database}\0{$user}\0{$application}\0{$clientHost}");
    }

    public static function of(Execution $execution): self
    {
        return new self(
            mb_scrub($execution->origin->database, 'UTF-8'),
            mb_scrub($execution->origin->user, 'UTF-8'),
            mb_scrub($execution->origin->application, 'UTF-8'),
            mb_scrub($execution->origin->clientHost, 'UTF-8'),
        );
    }
}
