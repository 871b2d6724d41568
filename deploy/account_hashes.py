#!/usr/bin/python3
"""Write a domain's accounts with the NT hashes of their passwords, as Hornfels compares them.

Asks a directory server for them by replication ([MS-DRSR], IDL_DRSGetNCChanges), which takes an
account with the rights "Replicating Directory Changes" and "Replicating Directory Changes All". It
runs with the Python of the system and Debian's package python3-samba, apart from Hornfels. The
password of that account is read from standard input; the file is closed to everybody else.
"""

import argparse
import getpass
import os
import sys
from pathlib import Path

from samba import drs_utils
from samba.credentials import DONT_USE_KERBEROS, Credentials
from samba.dcerpc import drsuapi, misc
from samba.net import Net
from samba.param import LoadParm

NOBODY = misc.GUID("00000000-0000-0000-0000-000000000000")
NAME, HASH = drsuapi.DRSUAPI_ATTID_sAMAccountName, drsuapi.DRSUAPI_ATTID_unicodePwd


def asked(base):
    """What is asked for: names and hashes of everything below the domain's root."""
    request = drsuapi.DsGetNCChangesRequest8()
    request.destination_dsa_guid = request.source_dsa_invocation_id = NOBODY
    request.naming_context = drsuapi.DsReplicaObjectIdentifier()
    request.naming_context.dn = base
    request.highwatermark = drsuapi.DsReplicaHighWaterMark()
    request.replica_flags = drsuapi.DRSUAPI_DRS_INIT_SYNC | drsuapi.DRSUAPI_DRS_WRIT_REP
    request.max_object_count = 1000
    request.extended_op = drsuapi.DRSUAPI_EXOP_NONE
    attributes = drsuapi.DsPartialAttributeSet()
    attributes.version = 1
    attributes.attids = [NAME, HASH]
    attributes.num_attids = 2
    request.partial_attribute_set = attributes
    return request


def accounts(server, credentials, parameters, base):
    """Names and hashes, one account after another."""
    drs, handle, _ = drs_utils.drsuapi_connect(server, parameters, credentials)
    net = Net(creds=credentials, lp=parameters, server=server)
    request = asked(base)
    while True:
        _, answer = drs.DsGetNCChanges(handle, 8, request)
        held = answer.first_object
        while held is not None:
            values = {}
            rid = int(str(held.object.identifier.sid).rpartition("-")[2])
            for attribute in held.object.attribute_ctr.attributes:
                if attribute.value_ctr.num_values:
                    if attribute.attid == HASH:
                        net.replicate_decrypt(drs, attribute, rid)
                    values[attribute.attid] = bytes(attribute.value_ctr.values[0].blob)
            if NAME in values and HASH in values:
                yield values[NAME].decode("utf-16-le"), values[HASH].hex()
            held = held.next_object
        if not answer.more_data:
            return
        request.highwatermark = answer.new_highwatermark


def main():
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("server", help="a directory server that can be written")
    parser.add_argument("--user", required=True, help="NAME of the account that may replicate")
    parser.add_argument("--domain", required=True, help="the domain's short (NetBIOS) name")
    parser.add_argument("--base", required=True, help="the domain's DN, such as DC=example,DC=com")
    parser.add_argument("-o", "--output", required=True, help="where example.com.hashes is wanted")
    given = parser.parse_args()
    secret = getpass.getpass() if sys.stdin.isatty() else sys.stdin.readline().rstrip("\n")
    parameters, credentials = LoadParm(), Credentials()
    parameters.load_default()
    credentials.guess(parameters)
    credentials.set_kerberos_state(DONT_USE_KERBEROS)
    credentials.set_domain(given.domain)
    credentials.set_username(given.user)
    credentials.set_password(secret)
    making = Path(f"{given.output}.making")
    handle = os.open(making, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    count = 0
    with os.fdopen(handle, "w", encoding="utf-8") as file:
        for name, digest in accounts(given.server, credentials, parameters, given.base):
            file.write(f"{name},{digest}\n")
            count += 1
    # It is there as a whole or not at all.
    making.replace(given.output)
    print(f"{given.output}: {count} accounts")


if __name__ == "__main__":
    main()
