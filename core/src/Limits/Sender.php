<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

/**
 * Who sends a statement, and from where; empty where that is not known.
 */
final readonly class Sender
{
    /**
     * @param  string  $login name a person or service account is known by to the servers
     * @param  string  $cluster short name of the cluster it is sent to
     */
    public function __construct(
        public string $login,
        public string $application = '',
        public string $queue = '',
        public string $team = '',
        public string $cluster = '',
    ) {
    }

    /** The same, sent to a cluster. */
    public function to(string $cluster): self
    {
        return new self($this->login, $this->application, $this->queue, $this->team, $cluster);
    }

    public function of(string $team): self
    {
        return new self($this->login, $this->application, $this->queue, $team, $this->cluster);
    }
}
