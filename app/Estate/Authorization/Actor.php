<?php

declare(strict_types=1);

namespace App\Estate\Authorization;

use App\Platform\Models\User;
use Fulcrion\Core\Limits\Sender;

/**
 * In whose name something is asked of a cluster: a person, or a named part of the system with its reason.
 */
final readonly class Actor
{
    /**
     * @param  Sender|null  $sender whose limits hold for what is run; null for what keeps clusters in order
     * @param  bool  $isKept whether what is run is kept like executions that are observed
     */
    private function __construct(
        public ?User $person,
        public ?SystemActor $system,
        public string $reason,
        public ?Sender $sender = null,
        public bool $isKept = false,
    ) {
    }

    /**
     * @param  string  $where it is asked, in one word
     */
    public static function person(User $person, string $where, bool $isKept = false): self
    {
        return new self($person, null, $where, new Sender(self::login($person), $where), $isKept);
    }

    /** The name servers know a person by. */
    public static function login(User $person): string
    {
        return (string) strtok($person->email, '@');
    }

    /** The same, sending what somebody else would send, which is kept as their execution. */
    public function sending(Sender $sender): self
    {
        return new self($this->person, $this->system, $this->reason, $sender, true);
    }

    /**
     * @param  string  $reason why, as it is kept
     */
    public static function system(SystemActor $system, string $reason): self
    {
        return new self(null, $system, $reason);
    }

    /** The name a statement runs under. */
    public function name(): string
    {
        return $this->person->email ?? ($this->system->value ?? '');
    }
}
