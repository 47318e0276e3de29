import { NavLink, useParams } from "react-router";

const VIEWS = [
  { path: "", label: "Records" },
  { path: "/profile", label: "Profile" },
  { path: "/rules", label: "Rules" },
  { path: "/steps", label: "Steps" },
  { path: "/tables", label: "Swap lists and value maps" },
];

/** The views of this stage, each with its own address. */
export function TidyNav() {
  const { slug = "" } = useParams();
  return (
    <nav aria-label="Views of Tidy" className="flex gap-1 text-sm">
      {VIEWS.map(({ path, label }) => (
        <NavLink
          key={label}
          end={path === ""}
          to={`/r/${slug}/tidy${path}`}
          className="rounded-[3px] px-2 py-1 text-plum hover:bg-plum-wash aria-[current=page]:bg-plum-wash aria-[current=page]:font-semibold aria-[current=page]:text-ink"
        >
          {label}
        </NavLink>
      ))}
    </nav>
  );
}
