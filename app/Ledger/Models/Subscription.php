<?php

declare(strict_types=1);

namespace App\Ledger\Models;

use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Model;

/**
 * Who is told of findings, of incidents, or of both.
 *
 * @property int $id
 * @property string $kind mail or webhook
 * @property string $target address; kept encrypted since webhook addresses carry secrets
 * @property string $hears findings, incidents or both
 * @property string|null $secret what messages of a webhook are signed with
 * @property bool $digest
 * @property bool $paused
 * @property string $made_by
 */
final class Subscription extends Model
{
    public const HEARS = ['findings', 'incidents', 'both'];

    public $timestamps = false;

    protected $hidden = ['target', 'secret'];

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['target' => 'encrypted', 'secret' => 'encrypted', 'digest' => 'bool', 'paused' => 'bool'];
    }

    /**
     * @param  'findings'|'incidents'  $what
     * @return Collection<int, self>
     */
    public static function hearing(string $what): Collection
    {
        return self::query()->where('paused', false)->whereIn('hears', [$what, 'both'])->orderBy('id')->get();
    }

    /** Without what may be a secret. */
    public function shown(): string
    {
        return $this->kind === 'webhook' ? (string) preg_replace('~^(https?://[^/?#]+).*$~', '$1/…', $this->target) : $this->target;
    }
}
