<?php

declare(strict_types=1);

namespace App\Clusters\Http\Requests;

use App\Estate\Models\Cluster;
use Illuminate\Foundation\Http\FormRequest;

/**
 * What is kept of a cluster, and how it is reached.
 */
final class SaveClusterRequest extends FormRequest
{
    use ServerFields;

    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        $rules = [
            'name' => ['required', 'string', 'max:120'],
            'role' => ['required', 'string', 'max:60'],
            'retention_days' => ['required', 'integer', 'between:2,3650'],
            'sample_days' => ['required', 'integer', 'between:1,3650'],
            'paused' => ['boolean'],
        ];
        $cluster = $this->route('cluster');
        if ($cluster instanceof Cluster && $cluster->isLive()) {
            $rules['interval_seconds'] = ['required', 'integer', 'between:10,3600'];
            $rules += $cluster->is_own ? [] : self::connection(false);
        }

        return $rules;
    }
}
